import { LineChart, ScatterChart } from 'echarts/charts'
import { GridComponent, LegendComponent, MarkLineComponent, TitleComponent } from 'echarts/components'

/** What our pictures are made of, and nothing else of the library. */
export const drawings = [LineChart, ScatterChart, GridComponent, LegendComponent, MarkLineComponent, TitleComponent]
