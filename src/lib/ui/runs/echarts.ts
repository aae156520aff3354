import { BarChart, LineChart } from 'echarts/charts';
import { AriaComponent, GridComponent, MarkLineComponent, TooltipComponent } from 'echarts/components';
import { init, use, type EChartsType } from 'echarts/core';
import { SVGRenderer } from 'echarts/renderers';

/** Begins a chart in an element. The module is large: it is fetched when a chart is drawn. */
export function begin(node: HTMLElement): EChartsType {
	use([BarChart, LineChart, AriaComponent, GridComponent, MarkLineComponent, TooltipComponent, SVGRenderer]);
	return init(node, null, { renderer: 'svg' });
}
