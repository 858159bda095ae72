<script setup lang="ts">
/** The sound of a bar as a picture, under its counts: high up, low down, dark where it is strong. */
import { ref, watch } from 'vue'
import { SIDE } from './rowLayout'

const props = defineProps<{ songId: string; bar: number; width: number }>()
const HEIGHT = 96
const canvas = ref<HTMLCanvasElement>()
const problem = ref('')

watch(() => [props.songId, props.bar, canvas.value], () => void draw(), { immediate: true })

async function draw(): Promise<void> {
  if (!canvas.value) return
  try {
    const answer = await fetch(`/api/songs/${props.songId}/picture/${props.bar}`)
    if (!answer.ok) throw new Error(((await answer.json()) as { detail: string }).detail)
    const bands = Number(answer.headers.get('X-Bands'))
    const frames = Number(answer.headers.get('X-Frames'))
    paint(new Uint8Array(await answer.arrayBuffer()), bands, frames)
    problem.value = ''
  } catch (error) {
    problem.value = error instanceof Error ? error.message : 'The sound cannot be shown.'
  }
}

function paint(shades: Uint8Array, bands: number, frames: number): void {
  const target = canvas.value
  const pen = target?.getContext('2d')
  if (!target || !pen) return
  target.width = frames
  target.height = bands
  const ink = getComputedStyle(target).color.match(/\d+/g)?.map(Number) ?? [35, 33, 29]
  const image = pen.createImageData(frames, bands)
  for (let band = 0; band < bands; band++)
    for (let frame = 0; frame < frames; frame++) {
      // Row 0 of a picture is its top, band 0 the lowest.
      const at = 4 * ((bands - 1 - band) * frames + frame)
      image.data[at] = ink[0]!
      image.data[at + 1] = ink[1]!
      image.data[at + 2] = ink[2]!
      image.data[at + 3] = (shades[band * frames + frame]! / 255) ** 2 * 255
    }
  pen.putImageData(image, 0, 0)
}
</script>

<template>
  <p v-if="problem" class="label">{{ problem }}</p>
  <canvas
    v-show="!problem"
    ref="canvas"
    class="picture"
    role="img"
    :aria-label="`The sound of bar ${bar}, from low to high`"
    :style="{ marginLeft: `${SIDE}px`, width: `${width - SIDE}px`, height: `${HEIGHT}px` }"
  />
</template>

<style scoped>
.picture {
  display: block;
  color: var(--ink);
}
</style>
