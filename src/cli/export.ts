export async function exportProject() { return 0; }
