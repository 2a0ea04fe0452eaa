import {
  ArcElement,
  BarController,
  BarElement,
  CategoryScale,
  Chart,
  type ChartConfiguration,
  DoughnutController,
  Filler,
  Legend,
  LinearScale,
  LineController,
  LineElement,
  type Plugin,
  PointElement,
  ScatterController,
  Tooltip,
  type TooltipItem,
} from 'chart.js'
import type { ChartPartView, Heading } from '@/api/types'
import { format } from '@/fields/fields'
import { drawn, type Mark, placed } from './series'

Chart.register(
  ArcElement,
  BarController,
  BarElement,
  CategoryScale,
  DoughnutController,
  Filler,
  Legend,
  LinearScale,
  LineController,
  LineElement,
  PointElement,
  ScatterController,
  Tooltip,
)

/** What was pressed: a mark of a series, or a record. */
export interface Pressed {
  mark?: Mark
  record?: number
}

/** Colours that lie apart in both themes, and for those who tell few apart by how light they are. */
const palette = {
  light: ['#7a2e5d', '#4c6f91', '#b58b3a', '#2f6b4f', '#a98aa9', '#8a8678', '#1c2230', '#8fb3a6'],
  dark: ['#d59abd', '#8fb2d3', '#dcb765', '#7fc3a1', '#b9a3c9', '#a9a69a', '#ece9e1', '#5f8f80'],
}
/** Lines are told apart by how they are dashed, too. */
const dashes = [[], [6, 3], [2, 2], [8, 3, 2, 3], [10, 4], [4, 4], [1, 3], [12, 3, 3, 3]]
const points = ['circle', 'rect', 'triangle', 'rectRot', 'crossRot', 'star', 'rectRounded', 'cross'] as const

interface Ways {
  dark: boolean
  picked: (mark: Mark) => boolean
  press: (pressed: Pressed, event: Event) => void
}

/** Draws a chart on a canvas. What is drawn before is to be destroyed by whoever holds it. */
export function draw(canvas: HTMLCanvasElement, view: ChartPartView, ways: Ways): Chart {
  const style = getComputedStyle(document.documentElement)
  const token = (name: string) => style.getPropertyValue(name).trim()
  Chart.defaults.font.family = getComputedStyle(document.body).fontFamily
  Chart.defaults.font.size = 13
  Chart.defaults.color = token('--muted')
  Chart.defaults.borderColor = token('--line')
  const colours = ways.dark ? palette.dark : palette.light
  const config = view.dots ? dots(view, colours[0]) : groups(view, colours, token('--panel'), ways)
  return new Chart(canvas, {
    ...config,
    options: {
      ...config.options,
      animation: false,
      maintainAspectRatio: false,
      responsive: true,
      onClick: (event, elements) => {
        const [hit] = elements
        if (hit && event.native) ways.press(pressedAt(view, hit), event.native)
      },
      onHover: (event, elements) => {
        const target = event.native?.target as HTMLElement | undefined
        if (target) target.style.cursor = elements.length ? 'pointer' : 'default'
      },
    },
  } as ChartConfiguration)
}

function pressedAt(view: ChartPartView, hit: { datasetIndex: number; index: number }): Pressed {
  if (view.dots) return { record: dotsOf(view)[hit.index]?.id }
  return { mark: drawn(view).series[hit.datasetIndex]?.marks[hit.index] ?? undefined }
}

const faded = (colour: string) => colour + '55'

/** Bars, lines and shares of groups. */
function groups(
  view: ChartPartView,
  colours: string[],
  panel: string,
  { picked }: Ways,
): ChartConfiguration<'bar' | 'line' | 'doughnut'> {
  const { places, series } = drawn(view)
  const any = series.some((s) => s.marks.some((m) => m && picked(m)))
  const shade = (colour: string, m: Mark | null) => (any && m && !picked(m) ? faded(colour) : colour)
  const says = (item: TooltipItem<'bar' | 'line' | 'doughnut'>) => {
    const s = series[item.datasetIndex]
    return [s?.name, s?.marks[item.dataIndex]?.says].filter(Boolean).join(': ')
  }
  const plugins = {
    legend: { display: series.length > 1 || view.drawn === 'shares', position: 'bottom' as const },
    tooltip: { callbacks: { label: says } },
  }
  const kind = view.drawn
  if (kind === 'shares')
    return {
      type: 'doughnut',
      data: {
        labels: places,
        datasets: series.map((s) => ({
          label: s.name,
          data: s.marks.map((m) => Math.max(0, m?.size ?? 0)),
          backgroundColor: s.marks.map((m, i) => shade(colours[i % colours.length], m)),
          borderColor: panel,
        })),
      },
      options: { plugins: { ...plugins, legend: { ...plugins.legend, position: 'right' } } },
    }
  const lying = kind === 'bars'
  const lines = kind === 'line' || kind === 'area'
  const stacked = !view.beside && kind !== 'line' && series.length > 1
  // Records are whole.
  const whole = view.look.totals?.length ? undefined : 0
  const scale = { stacked, beginAtZero: true, grid: { drawTicks: false }, ticks: { precision: whole } }
  const said = !lines && series.length === 1 && places.length <= mostSaid
  const names = { stacked, grid: { display: false }, ticks: { autoSkip: true, maxRotation: 40 } }
  return {
    type: lines ? 'line' : 'bar',
    data: {
      labels: places,
      datasets: series.map((s, i) => {
        const colour = colours[i % colours.length]
        return {
          label: s.name,
          data: s.marks.map((m) => m?.size ?? (lines && !counts(view) ? null : 0)),
          backgroundColor: kind === 'area' ? faded(colour) : s.marks.map((m) => shade(colour, m)),
          borderColor: colour,
          borderWidth: lines ? 2 : 0,
          borderDash: lines ? dashes[i % dashes.length] : undefined,
          pointStyle: points[i % points.length],
          pointBackgroundColor: lines ? s.marks.map((m) => shade(colour, m)) : undefined,
          fill: kind === 'area' ? (stacked && i > 0 ? '-1' : 'origin') : false,
          maxBarThickness: 44,
        }
      }),
    },
    plugins: said ? [saying(series[0].marks, lying)] : [],
    options: {
      layout: { padding: said ? (lying ? { right: 90 } : { top: 18 }) : 0 },
      indexAxis: lying ? 'y' : 'x',
      interaction: { mode: 'nearest', intersect: !lines },
      plugins,
      scales: lying ? { x: scale, y: { ...names, ticks: { autoSkip: false } } } : { x: names, y: scale },
    },
  }
}

/** On so many bars at most their figures stand. */
const mostSaid = 24

/** Writes the figures at the ends of bars. */
const saying = (marks: (Mark | null)[], lying: boolean): Plugin<'bar' | 'line' | 'doughnut'> => ({
  id: 'saying',
  afterDatasetsDraw(chart) {
    const { ctx } = chart
    ctx.save()
    ctx.fillStyle = String(Chart.defaults.color)
    ctx.font = `${Chart.defaults.font.size}px ${Chart.defaults.font.family}`
    ctx.textBaseline = lying ? 'middle' : 'bottom'
    ctx.textAlign = lying ? 'left' : 'center'
    chart.getDatasetMeta(0).data.forEach(({ x, y }, i) => {
      const says = marks[i]?.says
      if (says) ctx.fillText(says, lying ? x + 6 : x, lying ? y : y - 3)
    })
    ctx.restore()
  },
})

/** Where there is no record there are none, and they come to nothing; there is no average of them. */
function counts(view: ChartPartView): boolean {
  const [total] = view.look.totals ?? []
  return !total || total.of === 'sum' || total.of === 'count'
}

interface Dot {
  x: number
  y: number
  id: number
  label: string
  says: string
}

/** The records that have both values. */
function dotsOf(view: ChartPartView): Dot[] {
  const [across, up] = view.headings
  return (view.dots?.rows ?? []).flatMap((row) => {
    const [x, y] = [placed(across, row.cells[0]), placed(up, row.cells[1])]
    if (x === null || y === null) return []
    const says = `${format(across, row.cells[0])}, ${format(up, row.cells[1])}`
    return [{ x, y, id: row.id, label: row.label, says }]
  })
}

function dots(view: ChartPartView, colour: string): ChartConfiguration<'scatter', Dot[]> {
  const [across, up] = view.headings
  const scale = (heading: Heading) => ({
    title: { display: true, text: heading.label },
    ticks: { callback: (v: number | string) => ticked(heading, Number(v)) },
  })
  return {
    type: 'scatter',
    data: { datasets: [{ data: dotsOf(view), backgroundColor: faded(colour), borderColor: colour }] },
    options: {
      plugins: {
        legend: { display: false },
        tooltip: { callbacks: { label: ({ raw }) => `${(raw as Dot).label}: ${(raw as Dot).says}` } },
      },
      scales: { x: scale(across), y: scale(up) },
    },
  }
}

const days = new Intl.DateTimeFormat(undefined, { dateStyle: 'medium', timeZone: 'UTC' })

const ticked = (heading: Heading, n: number) =>
  heading.type === 'date' || heading.type === 'date_time' ? days.format(n) : n.toLocaleString()
