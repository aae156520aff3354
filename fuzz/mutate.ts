import { seeded } from '#core/model/seed.ts';

/** Draws the same for the same seed. */
export interface Draw {
	/** A whole number from 0 on, smaller than this. */
	below(limit: number): number;
	of<T>(list: readonly T[]): T;
}

export function draw(seed: number): Draw {
	const next = seeded(seed);
	const below = (limit: number) => Math.floor(next() * limit);
	return { below, of: (list) => list[below(list.length)]! };
}

const WORDS = [
	...['null', 'true', '[]', '{}', '""', '-0', '1e400', '9007199254740993', '0x10', 'NaN', '.nan', '~', '&a [*a]', '*a'],
	...[
		'{$env.x}',
		'{$',
		'{$secret.x}',
		'{{',
		'%00',
		'\u0000',
		'\ufeff',
		'\u2028',
		'\ud800',
		'😀',
		'‮',
		'\t',
		'\r',
		'\r\n'
	],
	...[
		'__proto__',
		'constructor',
		'<!DOCTYPE a [<!ENTITY b "c">]>',
		'<![CDATA[',
		']]>',
		'&amp;',
		'&#0;',
		'<',
		'>',
		'/>'
	],
	...[
		'$ref: "#"',
		'"$ref": "#/"',
		'../../etc/passwd',
		'http://127.0.0.1:1/',
		'file:///etc/passwd',
		'!!js/function',
		'---\n'
	],
	...[',', ':', ': ', '- ', '"', "'", '{', '}', '[', ']', '|', '#', '\\', '%', '@', '?']
];

/** A text that differs from the given one in one to eight places. */
export function mutate(text: string, { below, of }: Draw, others: readonly string[] = []): string {
	let out = text;
	for (let n = 1 + below(8); n > 0; n--) {
		const at = below(out.length + 1);
		const to = Math.min(out.length, at + below(1 + below(60)));
		const piece = out.slice(at, to);
		const lines = (): string => {
			const list = out.split('\n');
			const [a, b] = [below(list.length), below(list.length)];
			[list[a], list[b]] = [list[b]!, list[a]!];
			return list.join('\n');
		};
		out = of<() => string>([
			() => out.slice(0, at) + out.slice(to),
			() => out.slice(0, at) + of(WORDS) + out.slice(at),
			() => out.slice(0, at) + of(WORDS) + out.slice(to),
			() => out.slice(0, to) + piece.repeat(1 + below(20)) + out.slice(to),
			() => out.slice(0, at) + String.fromCharCode(below(0x250)) + out.slice(Math.min(out.length, at + 1)),
			() => out.slice(0, at),
			lines,
			() => {
				const other = others.length > 0 ? of(others) : text;
				const from = below(other.length);
				return out.slice(0, at) + other.slice(from, from + below(300)) + out.slice(to);
			},
			() => out.slice(0, at) + of(['[', '{"a":', '<a>', '- ', '(', '{$']).repeat(1 + below(3000)) + out.slice(at)
		])();
		if (out.length > 400_000) out = out.slice(0, 400_000);
	}
	return out;
}
