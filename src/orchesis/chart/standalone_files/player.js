'use strict'
// Plays the chart beside it with the kit that came along. No server, no network: DATA stands in data.js.
const { bars, strokes, sounds, layers, variants } = window.DATA
const AHEAD = 0.25
const context = new AudioContext()
const buffers = {}
let began = null // the moment at which bar 1 of the course would have begun, and the place it began at
let next = 0
let speed = 1
let from = 0
const turns = {}

const button = document.getElementById('play')
const slider = document.getElementById('speed')
const told = document.getElementById('told')
const bytes = (text) => Uint8Array.from(atob(text), (letter) => letter.charCodeAt(0)).buffer
const ready = Promise.all(
  Object.entries(sounds).map(async ([name, text]) => (buffers[name] = await context.decodeAudioData(bytes(text)))),
)

function layerOf(velocity) {
  return Object.entries(layers).reduce((best, one) =>
    Math.abs(one[1] - velocity) < Math.abs(best[1] - velocity) ? one : best,
  )
}
function strike([, instrument, velocity], at) {
  const [layer, struck] = layerOf(velocity)
  const turn = (turns[instrument] = (turns[instrument] ?? 0) + 1)
  const buffer = buffers[`${instrument}-${layer}-${(turn % (variants[instrument] ?? 1)) + 1}`]
  if (!buffer) return
  const gain = new GainNode(context, { gain: Math.min(1.6, (velocity / struck) ** 1.6) * 0.6 })
  const source = new AudioBufferSourceNode(context, { buffer })
  source.connect(gain).connect(context.destination)
  source.start(at)
}
const place = () => (began === null ? from : from + (context.currentTime - began) * speed)
function barAt(time) {
  let found = bars[0]
  for (const bar of bars) if (bar.start <= time + 0.001) found = bar
  return found
}
function tick() {
  if (began === null) return
  const until = context.currentTime + AHEAD
  while (next < strokes.length && began + (strokes[next][0] - from) / speed < until) {
    strike(strokes[next], Math.max(context.currentTime, began + (strokes[next][0] - from) / speed))
    next += 1
  }
  if (place() > bars[bars.length - 1].end) pause(true)
  show()
}
function show() {
  told.textContent = `bar ${barAt(place()).number}, ${Math.round(100 * speed)} %`
}
async function play() {
  await ready
  await context.resume()
  began = context.currentTime + 0.1
  next = strokes.findIndex((stroke) => stroke[0] >= from - 0.001)
  if (next < 0) next = strokes.length
  button.textContent = 'Pause'
}
function pause(isOver = false) {
  from = isOver ? bars[0].start : barAt(place()).start
  began = null
  button.textContent = 'Play'
}
button.addEventListener('click', () => (began === null ? void play() : pause()))
slider.addEventListener('input', () => {
  const was = began !== null
  if (was) pause()
  speed = Number(slider.value) / 100
  show()
  if (was) void play()
})
document.addEventListener('keydown', (event) => {
  if (event.target === slider && event.key !== ' ') return
  const by = { ArrowRight: 1, ArrowLeft: -1 }[event.key]
  if (event.key === ' ') {
    event.preventDefault()
    button.click()
  } else if (by) {
    const was = began !== null
    if (was) pause()
    const index = bars.indexOf(barAt(place())) + by
    from = bars[Math.min(bars.length - 1, Math.max(0, index))].start
    show()
    if (was) void play()
  }
})
setInterval(tick, 50)
show()
