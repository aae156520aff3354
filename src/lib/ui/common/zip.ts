/** Gives files to the browser as a ZIP to keep. */
export async function saveZip(name: string, files: readonly { path: string; base64: string }[]): Promise<void> {
	// seldom wanted, and part of every page's head
	const [{ zip }, { saveText }] = await Promise.all([import('fflate'), import('./upload.ts')]);
	const inside = Object.fromEntries(
		files.map(({ path, base64 }) => [path, Uint8Array.from(atob(base64), (letter) => letter.charCodeAt(0))])
	);
	const bytes = await new Promise<Uint8Array<ArrayBuffer>>((resolve, reject) =>
		zip(inside, (error, data) => (error ? reject(new Error(error.message)) : resolve(data as Uint8Array<ArrayBuffer>)))
	);
	saveText(name, bytes, 'application/zip');
}
