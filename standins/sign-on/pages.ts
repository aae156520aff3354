const escape = (text: string) => text.replace(/[&<>"]/g, (c) => `&#${c.charCodeAt(0)};`);
const hidden = (fields: Record<string, string | undefined>) =>
	Object.entries(fields)
		.map(([name, value]) => `<input type="hidden" name="${escape(name)}" value="${escape(value ?? '')}">`)
		.join('');
const page = (title: string, body: string) => `<!doctype html><html lang="en"><meta charset="utf-8">
<meta name="viewport" content="width=device-width"><title>${escape(title)} · Reedmere sign-on</title>
<style>body{font:16px/1.5 system-ui,sans-serif;max-width:34em;margin:12vh auto;padding:0 1em;color:#22303f;background:#f9f7f2}
h1{font-size:21px}button{font:inherit;padding:.4em 1em;margin-right:.6em}input{font:inherit;padding:.3em}</style>
<h1>${escape(title)}</h1>${body}</html>`;
const DECIDE =
	'<p><button name="decision" value="allow">Allow</button><button name="decision" value="refuse">Refuse</button></p>';

export const plainPage = (title: string, text: string): string => page(title, `<p>${escape(text)}</p>`);

export const consentPage = (client: string, scope: string, query: Record<string, string | undefined>): string =>
	page(
		`May ${client} act for you?`,
		`<form method="post" action="/authorize"><p>You are signed on as avery. It asks for: ${escape(scope)}.</p>${hidden({ ...query, user: 'avery' })}${DECIDE}</form>`
	);

export const devicePage = (code: string): string =>
	page(
		'Sign a device in',
		`<form method="post" action="/device/confirm"><p><label>Code <input name="user_code" value="${escape(code)}"></label></p>${DECIDE}</form>`
	);
