import { parseJson, writeJson, type Json } from '#core/model/json.ts';
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

const ODD: readonly Json[] = [
	...[
		null,
		true,
		false,
		0,
		-1,
		5.5,
		1e300,
		9007199254740993n,
		'',
		' ',
		'x',
		'5',
		'true',
		'{',
		'{}',
		'/',
		'#',
		'#/',
		'{a}{b}'
	],
	...[[], {}, [[]], [null], ['a', 'a'], { $ref: '#' }, { $ref: '#/components' }, { $ref: 'x' }, { $ref: 5 }],
	...[
		'{$env.x}',
		'{$steps.a.status}',
		'{$nothing()}',
		'{$',
		'$[*].id',
		'//a',
		'1 d',
		'2026-02-30',
		'GET /x',
		'*',
		'none'
	],
	...[
		{ '': {} },
		{ __proto__x: 1 },
		{ type: 'object', allOf: [{}] },
		'application/json',
		'2XX',
		'default',
		'https://x{y}'
	]
];

/** All places of a value: what holds it, and under which key. */
function placesIn(value: Json): [holder: Record<string, Json>, key: string][] {
	const places: [Record<string, Json>, string][] = [];
	const waiting: Json[] = [value];
	for (let next = waiting.pop(); next !== undefined; next = waiting.pop())
		if (typeof next === 'object' && next !== null)
			for (const [key, one] of Object.entries(next)) {
				places.push([next as unknown as Record<string, Json>, key]);
				waiting.push(one as Json);
			}
	return places;
}

/** Changes a document in one to five places, so that it stays JSON. */
export function changeJson(document: Json, draw: Draw): void {
	for (let count = 1 + draw.below(5); count > 0; count--) {
		const places = placesIn(document);
		if (places.length === 0) return;
		const [holder, key] = draw.of(places);
		const [other, otherKey] = draw.of(places);
		const copy = (value: Json) => parseJson(writeJson(value));
		draw.of<() => void>([
			() => void (holder[key] = copy(draw.of(ODD))),
			() => void (holder[key] = copy(draw.of(ODD))),
			() => {
				if (Array.isArray(holder)) holder.splice(Number(key), 1);
				else delete holder[key];
			},
			() => {
				const value = holder[key]!;
				if (!Array.isArray(holder)) delete holder[key];
				holder[Array.isArray(holder) ? key : otherKey] = value;
			},
			() => void (holder[key] = copy(other[otherKey]!)),
			() => void (holder[key] = [copy(holder[key]!)]),
			() =>
				void (holder[key] =
					typeof holder[key] === 'string'
						? holder[key] + draw.of(['/', '{x}', '~1', ' ', '%', '?a=b', '#c'])
						: String(holder[key]))
		])();
	}
}
