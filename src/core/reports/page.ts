/** Text in a document or a quoted attribute; what no document may hold is replaced (HTML Living Standard, 13.2.3.5). */
export const text = (value: string): string =>
	value
		.toWellFormed()
		// eslint-disable-next-line no-control-regex
		.replace(/[\u0000-\u0008\u000b\u000c\u000e-\u001f\u007f-\u009f]/g, '\uFFFD')
		.replace(/[&<>"']/g, (c) => `&#${c.charCodeAt(0)};`);

/** How a page looks that stands by itself. */
export const STYLE = `:root{color-scheme:light dark}
body{font:15px/1.45 system-ui,sans-serif;max-width:72rem;margin:0 auto;padding:1.5rem;color:light-dark(#22303f,#dfe5ea);background:light-dark(#f9f7f2,#1b232c)}
h1{font-size:1.5rem;margin:0 0 .25rem}h2{font-size:1.1rem;margin:2rem 0 .5rem;padding-bottom:.25rem;border-bottom:2px solid}h3{font-size:1rem;margin:0}
code,pre,td.data{font:13px/1.4 ui-monospace,monospace;overflow-wrap:anywhere}pre{white-space:pre-wrap;margin:.25rem 0;max-height:24rem;overflow:auto}
article{padding:.75rem 0;border-bottom:1px solid light-dark(#c9d0d6,#45515c)}
table{border-collapse:collapse;width:100%}th,td{text-align:left;vertical-align:top;padding:.2rem .75rem .2rem 0;font-weight:inherit}
th{color:light-dark(#5a6673,#a5b0ba)}td+td{border-left:0}tr+tr>*{border-top:1px solid light-dark(#e0ddd5,#333e48)}
mark{background:light-dark(#f1c0b6,#7a2f24);color:inherit}.bad{color:light-dark(#9b2c1f,#f2a093);font-weight:600}
.quiet{color:light-dark(#5a6673,#a5b0ba)}summary{cursor:pointer;padding:.2rem 0}details>div{padding-left:1rem}
`;
