'use client'
import { BarChart, LineChart } from 'echarts/charts'
import { GridComponent, MarkLineComponent, TooltipComponent } from 'echarts/components'
import { type ECharts, type EChartsCoreOption, init, use } from 'echarts/core'
import { CanvasRenderer } from 'echarts/renderers'
import { useEffect, useRef } from 'react'
import { FONT, INK, TINTS } from './ink'

use([LineChart, BarChart, GridComponent, TooltipComponent, MarkLineComponent, CanvasRenderer])

/** A picture of numbers. `onPoint` gets where somebody clicked, in the units of the x axis. */
export function Chart({
  option,
  label,
  onPoint,
  className,
}: {
  option: EChartsCoreOption
  label: string
  onPoint?: (x: number) => void
  className?: string
}) {
  const box = useRef<HTMLDivElement>(null)
  const chart = useRef<ECharts | null>(null)
  const click = useRef(onPoint)
  click.current = onPoint
  useEffect(() => {
    const el = box.current
    if (!el) return
    const c = init(el, null, { renderer: 'canvas' })
    chart.current = c
    c.getZr().on('click', (e) => {
      const p = [e.offsetX, e.offsetY]
      if (!click.current || !c.containPixel('grid', p)) return
      click.current((c.convertFromPixel({ xAxisIndex: 0 }, p[0]) as unknown as number) ?? 0)
    })
    const observer = new ResizeObserver(() => c.resize())
    observer.observe(el)
    return () => {
      observer.disconnect()
      c.dispose()
      chart.current = null
    }
  }, [])
  useEffect(() => {
    chart.current?.setOption(
      {
        animation: false,
        textStyle: { fontFamily: FONT },
        tooltip: {
          trigger: 'axis',
          backgroundColor: '#141a17',
          borderColor: INK.line,
          padding: [3, 8],
          textStyle: { color: TINTS[0], fontSize: 12, fontFamily: FONT },
          axisPointer: { lineStyle: { color: INK.text } },
        },
        ...option,
      },
      { notMerge: true },
    )
  }, [option])
  return <div ref={box} role="img" aria-label={label} className={className} />
}
