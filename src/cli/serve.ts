export async function serve() { return 0; }
