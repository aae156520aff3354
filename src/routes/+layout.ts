// A workbench of one page at a time: nothing is gained by making it on the server first.
export const ssr = false;
