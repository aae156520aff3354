<script lang="ts">
	import type { AskAnswer } from '$lib/wire.ts';
	import { lineOf, placesOf, type Place } from './mapping.ts';

	/** Lines from the places of a request to the values that are made of them, and on to where these stand in the answer. */
	let {
		within,
		answer,
		lit
	}: {
		/** What the fields of the request, the values and the answer are in. */
		within: HTMLElement;
		answer: AskAnswer;
		/** The expression that is looked at. */
		lit: string;
	} = $props();

	interface Line {
		source: string;
		d: string;
	}
	interface Point {
		x: number;
		y: number;
	}
	let lines: Line[] = $state.raw([]);
	let size = $state({ width: 0, height: 0 });

	function measure() {
		const frame = within.getBoundingClientRect();
		size = { width: frame.width, height: frame.height };
		const all = (selector: string) => [...within.querySelectorAll<HTMLElement>(selector)];
		const fields = all('[data-field]');
		const rows = all('[data-value]');
		const fills = all('[data-fill]');
		const [first] = rows;
		// one below the other there is no room between them
		if (!first || !fields[0] || first.getBoundingClientRect().left < fields[0].getBoundingClientRect().right)
			return void (lines = []);
		const at = (x: number, y: number): Point => ({ x: x - frame.left, y: y - frame.top });
		const curve = (from: Point, to: Point) => {
			const bend = Math.max(14, (to.x - from.x) / 2);
			return `M${from.x} ${from.y}C${from.x + bend} ${from.y} ${to.x - bend} ${to.y} ${to.x} ${to.y}`;
		};
		const startOf = (place: Place): Point | undefined => {
			const field = fields.find((one) => one.dataset.field === place.field);
			if (!field) return undefined;
			const box = field.getBoundingClientRect();
			if (!('name' in place) || !(field instanceof HTMLTextAreaElement)) return at(box.right, box.top + box.height / 2);
			const style = getComputedStyle(field);
			const high = parseFloat(style.lineHeight) || 18;
			const y = parseFloat(style.paddingTop) + (lineOf(place, field.value) + 0.5) * high - field.scrollTop;
			return at(box.right, box.top + Math.min(Math.max(y, 4), box.height - 4));
		};
		const view = fills[0]?.closest('pre')?.getBoundingClientRect();
		lines = rows.flatMap((row): Line[] => {
			const source = row.dataset.value!;
			const box = row.getBoundingClientRect();
			const y = box.top + box.height / 2;
			const from = placesOf(source).flatMap((place) => startOf(place) ?? []);
			const to = fills.flatMap((one) => {
				const rect = one.dataset.fill === source ? one.getClientRects()[0] : undefined;
				const seen = rect && view && rect.bottom > view.top && rect.top < view.bottom;
				// it ends before the line that it stands in: what is written there stays readable
				return rect && seen ? [at(view.left - 3, rect.top + rect.height / 2)] : [];
			});
			return [
				...from.map((point) => ({ source, d: curve(point, at(box.left, y)) })),
				...to.map((point) => ({ source, d: curve(at(box.right, y), point) }))
			];
		});
	}

	$effect(() => {
		void answer;
		let frame = requestAnimationFrame(measure);
		const soon = () => {
			cancelAnimationFrame(frame);
			frame = requestAnimationFrame(measure);
		};
		const observer = new ResizeObserver(soon);
		observer.observe(within);
		within.addEventListener('scroll', soon, true);
		within.addEventListener('input', soon);
		return () => {
			cancelAnimationFrame(frame);
			observer.disconnect();
			within.removeEventListener('scroll', soon, true);
			within.removeEventListener('input', soon);
		};
	});
	const ordered = $derived([
		...lines.filter(({ source }) => source !== lit),
		...lines.filter(({ source }) => source === lit)
	]);
</script>

<svg
	class="pointer-events-none absolute top-0 left-0 z-[1]"
	width={size.width}
	height={size.height}
	fill="none"
	stroke-linecap="round"
	aria-hidden="true"
	data-threads={lines.length}
>
	{#each ordered as line, index (index)}<path
			d={line.d}
			stroke={line.source === lit ? 'var(--color-primary)' : 'var(--quiet)'}
			stroke-width={line.source === lit ? 2.2 : 1}
			opacity={line.source === lit || !lit ? 1 : 0.35}
		/>{/each}
</svg>
