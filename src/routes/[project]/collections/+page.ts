// drawn in the browser: what it edits is fetched with it
export const ssr = false;
