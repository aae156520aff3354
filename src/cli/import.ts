export async function importFolder() { return 0; }
