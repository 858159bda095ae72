/**
 * The parts of a note's sign, written at their place on the page. No element is moved by a transform:
 * a browser keeps what is transformed as a drawing layer of its own, and with the thousands of notes of
 * a bar stack sorting those took most of each picture while it scrolled.
 */

/** Shapes about the middle of the head: M, L, Q and Z with absolute pairs only. */
export const SHAPES = {
  cross: 'M-5 -5L5 5M5 -5L-5 5',
  diamond: 'M0 -6L6 0L0 6L-6 0Z',
  burst: 'M0 -8L0 8M-7 0L7 0',
  bow: 'M-6 7.5L6 7.5',
  slash: 'M-7 7L7 -7',
  brackets: 'M-6.5 -5.5Q-9.5 0 -6.5 5.5M6.5 -5.5Q9.5 0 6.5 5.5',
  cap: 'M-6.5 -9.5L6.5 -9.5',
  flamStem: 'M-7.2 1L-7.2 -6.5',
  dragStem: 'M-16.5 1.5L-16.5 -6.5L-7.5 -6.5',
  buzz: 'M-3.5 -11L3.5 -11L-3.5 -7L3.5 -7',
  out: 'M-7 6L7 -6',
  line: 'M-8 10L8 10',
} as const

const TOKEN = /[MLQZ]|-?\d+(?:\.\d+)?/g
const rounded = (value: number) => Math.round(value * 100) / 100

/** A shape with its middle at x, y. */
export function placed(shape: string, x: number, y: number, size = 1): string {
  let isAcross = true
  return shape.replace(TOKEN, (token) => {
    if (/[MLQZ]/.test(token)) return token
    const value = rounded((isAcross ? x : y) + size * Number(token))
    isAcross = !isAcross
    return String(value)
  })
}

const LEAN = (-18 * Math.PI) / 180

/** A note head: an ellipse that leans as engraved ones do. */
export function head(x: number, y: number, size: number): string {
  const [wide, high] = [6.2 * size, 4.8 * size]
  const [dx, dy] = [wide * Math.cos(LEAN), wide * Math.sin(LEAN)].map(rounded) as [number, number]
  const arc = `a${rounded(wide)} ${rounded(high)} -18 1 0`
  return `M${rounded(x - dx)} ${rounded(y - dy)}${arc} ${2 * dx} ${2 * dy}${arc} ${-2 * dx} ${-2 * dy}Z`
}

/** Half a ring over a head: a hat that is half open. */
export function halfRing(x: number, y: number, size: number): string {
  const radius = rounded(8 * size)
  return `M${rounded(x - 8 * size)} ${y}a${radius} ${radius} 0 0 1 ${2 * radius} 0`
}
