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

/** The lines that are drawn, by their names: what has moved to another page is taken along. */
function drawnLines(into: HTMLElement): Map<string, SVGGElement[]> {
  const found = new Map<string, SVGGElement[]>()
  for (const line of into.querySelectorAll<SVGGElement>('g[data-name]'))
    found.set(line.dataset.name!, [...(found.get(line.dataset.name!) ?? []), line])
  return found
}

function newSheet(): HTMLElement {
  const sheet = document.createElement('div')
  sheet.className = 'sheet'
  const svg = document.createElementNS(SVG, 'svg')
  svg.setAttribute('role', 'img')
  for (const part of ['texts', 'ink']) {
    const element = document.createElementNS(SVG, 'g')
    element.setAttribute('class', part === 'texts' ? 'ink texts' : 'ink lines')
    svg.append(element)
  }
  sheet.append(svg)
  return sheet
}

/** Set an attribute only where it is another: what is set anew is laid out anew. */
function set(element: Element, name: string, value: string): void {
  if (element.getAttribute(name) !== value) element.setAttribute(name, value)
}

/**
 * Bring an element to show a chart: a page a sheet. Lines that are there already, by their names, are
 * left where they are: what has not changed is neither drawn nor laid out again.
 */
export function drawSheets(into: HTMLElement, chart: Chart): void {
  const key = Object.keys(chart.glyphs).sort().join(' ')
  const old = into.querySelector<SVGSVGElement>(':scope > .outlines')
  if (old?.dataset.glyphs !== key) {
    const fresh = outlines(chart.glyphs)
    fresh.dataset.glyphs = key
    if (old) old.replaceWith(fresh)
    else into.prepend(fresh)
  }
  // What is gone goes first: it would push every line after it out of its place, to be laid out anew.
  const wanted = new Set(chart.pages.flatMap((page) => page.systems.map((system) => system.name)))
  for (const line of into.querySelectorAll<SVGGElement>('g[data-name]')) if (!wanted.has(line.dataset.name!)) line.remove()
  const kept = drawnLines(into)
  const sheets = [...into.querySelectorAll<HTMLElement>(':scope > .sheet')]
  for (const [index, page] of chart.pages.entries()) {
    const sheet = sheets[index] ?? newSheet()
    if (!sheets[index]) into.append(sheet)
    const svg = sheet.firstElementChild!
    set(svg, 'viewBox', `0 0 ${page.width} ${page.height}`)
    set(svg, 'aria-label', `Chart, page ${index + 1} of ${chart.pages.length}`)
    const [texts, lines] = [...svg.children] as [SVGGElement, SVGGElement]
    if (texts.dataset.of !== page.texts) {
      texts.dataset.of = page.texts
      texts.replaceChildren(...parsed(page.texts))
    }
    for (const [place, system] of page.systems.entries()) {
      const there = lines.children[place] as SVGGElement | undefined
      const known = kept.get(system.name)
      const line = there?.dataset.name === system.name ? there : (known?.find((item) => item !== there) ?? group(system.name, system.svg ?? ''))
      if (known) known.splice(known.indexOf(line), known.includes(line) ? 1 : 0)
      set(line, 'transform', system.transform)
      if (line !== there) lines.insertBefore(line, there ?? null)
    }
    while (lines.children.length > page.systems.length) lines.lastElementChild!.remove()
  }
  for (const sheet of sheets.slice(chart.pages.length)) sheet.remove()
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
