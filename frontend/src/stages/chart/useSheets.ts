/** Draws a chart's pages into an element: a line that has not changed stays as it is. */
import type { Chart } from '@/api/client'

const SVG = 'http://www.w3.org/2000/svg'

/** The drawings are ours, made by the engraver from our own values, whose texts it escapes. */
function parsed(inside: string): Node[] {
  const text = `<svg xmlns="${SVG}" xmlns:xlink="http://www.w3.org/1999/xlink">${inside}</svg>`
  const { documentElement } = new DOMParser().parseFromString(text, 'image/svg+xml')
  return [...documentElement.childNodes].map((node) => document.importNode(node, true))
}

function group(name: string, inside: string): SVGGElement {
  const element = document.createElementNS(SVG, 'g')
  element.dataset.name = name
  element.append(...parsed(inside))
  return element
}

/** The outlines of heads and signs, once for all pages. */
function outlines(glyphs: Record<string, string>): SVGSVGElement {
  const svg = document.createElementNS(SVG, 'svg')
  svg.setAttribute('class', 'outlines')
  svg.setAttribute('aria-hidden', 'true')
  const inside = Object.entries(glyphs)
    .map(([name, path]) => `<g id="${name}"><path transform="scale(1,-1)" d="${path}"/></g>`)
    .join('')
  svg.append(...parsed(`<defs>${inside}</defs>`))
  return svg
}

/**
 * Bring an element to show a chart: a page a sheet. Lines that are there already, by their names, are
 * kept, also where they have moved to another page.
 */
export function drawSheets(into: HTMLElement, chart: Chart): void {
  const kept = new Map<string, SVGGElement[]>()
  for (const line of into.querySelectorAll<SVGGElement>('g[data-name]'))
    kept.set(line.dataset.name!, [...(kept.get(line.dataset.name!) ?? []), line])
  const sheets = chart.pages.map((page, index) => {
    const sheet = document.createElement('div')
    sheet.className = 'sheet'
    const svg = document.createElementNS(SVG, 'svg')
    svg.setAttribute('viewBox', `0 0 ${page.width} ${page.height}`)
    svg.setAttribute('role', 'img')
    svg.setAttribute('aria-label', `Chart, page ${index + 1} of ${chart.pages.length}`)
    const ink = document.createElementNS(SVG, 'g')
    ink.setAttribute('class', 'ink')
    ink.append(...parsed(page.texts))
    for (const system of page.systems) {
      const line = kept.get(system.name)?.pop() ?? group(system.name, system.svg ?? '')
      line.setAttribute('transform', system.transform)
      ink.append(line)
    }
    svg.append(ink)
    sheet.append(svg)
    return sheet
  })
  into.replaceChildren(outlines(chart.glyphs), ...sheets)
}

/** The measure of a chart that a bar of the song is played from. */
export function measureOf(chart: Chart, bar: number) {
  return chart.measures.find((item) => item.bars.some((first) => bar >= first && bar < first + item.span))
}

/** Bar, place and drum of a note by the identity of its head; null where it is none. */
export function noteOf(id: string): { bar: number; position: string; instrument: string } | null {
  const found = /^n(\d+)-(\d+)_(\d+)-(\w+)$/.exec(id)
  if (!found) return null
  const [, bar, over, under, instrument] = found
  return { bar: Number(bar), position: under === '1' ? over! : `${over}/${under}`, instrument: instrument! }
}
