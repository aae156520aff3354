import { median, percentile } from '#core/gate/index.ts';
import { showDuration } from '#core/model/units.ts';
import type { RunLine, StepMoment } from '$lib/wire.ts';
import type { EChartsCoreOption } from 'echarts/core';
import type { Colors } from './colors.ts';

const grid = { left: 46, right: 54, top: 10, bottom: 22 };
const textStyle = (colors: Colors) => ({ fontFamily: colors.font, fontSize: 12, color: colors.quiet });
const tooltip = (colors: Colors) => ({
	trigger: 'axis',
	axisPointer: { type: 'shadow' },
	backgroundColor: colors.sheet,
	borderColor: colors.rule,
	textStyle: { ...textStyle(colors), color: colors.ink },
	// no markup: titles are what somebody typed
	renderMode: 'richText'
});
const axis = (colors: Colors) => ({
	axisLine: { lineStyle: { color: colors.rule } },
	axisTick: { show: false },
	axisLabel: { ...textStyle(colors) },
	splitLine: { lineStyle: { color: colors.line } }
});

/** How runs ended and how long they took, the oldest first. */
export function runsOption(runs: readonly RunLine[], colors: Colors): EChartsCoreOption {
	const bars: [name: string, key: keyof RunLine['counts'], color: string, decal?: object][] = [
		['passed', 'passed', colors.rule],
		['passed later', 'unsteady', colors.act],
		['in quarantine', 'quarantined', colors.quiet, { symbol: 'rect', dashArrayX: [3, 3], dashArrayY: [3, 3] }],
		['skipped', 'skipped', colors.line],
		[
			'not carried out',
			'errors',
			colors.error,
			{ symbol: 'rect', rotation: 0.8, dashArrayX: [1, 0], dashArrayY: [2, 3] }
		],
		['failed', 'failed', colors.fail]
	];
	const some = bars.filter(([, key]) => key === 'passed' || runs.some((run) => run.counts[key] > 0));
	return {
		textStyle: textStyle(colors),
		grid,
		tooltip: tooltip(colors),
		xAxis: { type: 'category', data: runs.map(({ number }) => String(number)), ...axis(colors) },
		yAxis: [
			{ type: 'value', minInterval: 1, ...axis(colors) },
			{
				type: 'value',
				...axis(colors),
				splitLine: { show: false },
				axisLabel: { ...textStyle(colors), formatter: (ms: number) => showDuration(ms) }
			}
		],
		series: [
			...some.map(([name, key, color, decal]) => ({
				...{ name, type: 'bar', stack: 'steps', barMaxWidth: 18, cursor: 'pointer' },
				itemStyle: { color, ...(decal ? { decal: { color: colors.sheet, ...decal } } : {}) },
				data: runs.map(({ counts }) => counts[key])
			})),
			{
				...{ name: 'time', type: 'line', yAxisIndex: 1, symbolSize: 5, silent: true },
				lineStyle: { color: colors.ink, width: 1.5 },
				itemStyle: { color: colors.ink },
				tooltip: { valueFormatter: (ms: number) => showDuration(ms) },
				data: runs.map(({ ms }) => Math.round(ms))
			}
		]
	};
}

/** How long a step took, run by run, the oldest first; what did not pass is marked. */
export function momentsOption(moments: readonly StepMoment[], colors: Colors): EChartsCoreOption {
	const passed = moments.filter(({ standing }) => standing === 'passed' || standing === 'unsteady').map(({ ms }) => ms);
	const sorted = [...passed].sort((a, b) => a - b);
	const lines = passed.length > 1 ? [median(passed), percentile(sorted, 0.95)] : [];
	return {
		textStyle: textStyle(colors),
		grid: { ...grid, left: 64, right: 120 },
		tooltip: { ...tooltip(colors), axisPointer: { type: 'line' }, valueFormatter: (ms: number) => showDuration(ms) },
		xAxis: { type: 'category', data: moments.map(({ number }) => String(number)), ...axis(colors) },
		yAxis: {
			type: 'value',
			...axis(colors),
			axisLabel: { ...textStyle(colors), formatter: (ms: number) => showDuration(ms) }
		},
		series: [
			{
				...{ name: 'time', type: 'line', cursor: 'pointer' },
				lineStyle: { color: colors.ink, width: 1.5 },
				data: moments.map(({ ms, standing }) => ({
					value: standing === 'skipped' ? null : ms,
					...(standing === 'failed' || standing === 'quarantined'
						? { symbol: 'rect', symbolSize: 9, itemStyle: { color: colors.fail } }
						: standing === 'error'
							? { symbol: 'emptyCircle', symbolSize: 9, itemStyle: { color: colors.error } }
							: {
									symbol: 'circle',
									symbolSize: 4,
									itemStyle: { color: standing === 'unsteady' ? colors.act : colors.ink }
								})
				})),
				markLine: {
					silent: true,
					symbol: 'none',
					lineStyle: { color: colors.quiet, type: 'dashed' },
					label: {
						...textStyle(colors),
						formatter: ({ name, value }: { name: string; value: number }) => `${name} ${showDuration(value)}`
					},
					data: lines.map((yAxis, at) => ({ name: at === 0 ? 'median' : '95 of 100', yAxis }))
				}
			}
		]
	};
}

/** How long whole runs took, the oldest first. */
export function timesOption(
	runs: readonly { number?: number; ms: number; held: boolean }[],
	colors: Colors
): EChartsCoreOption {
	return {
		textStyle: textStyle(colors),
		grid: { ...grid, left: 50, right: 12 },
		tooltip: { ...tooltip(colors), axisPointer: { type: 'line' }, valueFormatter: (ms: number) => showDuration(ms) },
		xAxis: { type: 'category', data: runs.map(({ number }) => `run ${number ?? ''}`), ...axis(colors) },
		yAxis: {
			type: 'value',
			...axis(colors),
			splitNumber: 2,
			axisLabel: { ...textStyle(colors), formatter: (ms: number) => showDuration(ms) }
		},
		series: [
			{
				...{ name: 'time', type: 'line', cursor: 'pointer' },
				lineStyle: { color: colors.ink, width: 1.5 },
				data: runs.map(({ ms, held }, index) => ({
					value: Math.round(ms),
					symbol: held ? 'circle' : 'rect',
					symbolSize: index === runs.length - 1 ? 9 : 5,
					itemStyle: { color: held ? (index === runs.length - 1 ? colors.act : colors.ink) : colors.fail }
				}))
			}
		]
	};
}
