import { LineChart, ScatterChart } from 'echarts/charts'
import { GridComponent, MarkLineComponent } from 'echarts/components'

/** What our pictures are made of, and nothing else of the library. */
export const drawings = [LineChart, ScatterChart, GridComponent, MarkLineComponent]
