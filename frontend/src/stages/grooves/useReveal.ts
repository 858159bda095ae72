/** Keeps in sight what one is at: the bar at the cursor, the bar that sounds. */
import { nextTick, onMounted, type Ref, watch } from 'vue'
import { useOpenSong } from '@/song/openSong'

const REVEAL_MARGIN = 16
/** The name of a section, which stays at the top of the rows. */
const HEADING = 34

export function useReveal(list: Ref<HTMLElement | undefined>, isDragging: () => boolean): void {
  const { player, stack, found, showPicture } = useOpenSong()

  /** Scrolls the rows only: whoever reads the chart below must not be taken away from it. */
  function reveal(number: number): void {
    const row = list.value?.querySelector(`[data-bar="${number}"]`)
    if (!list.value || !row) return
    const [frame, box] = [list.value.getBoundingClientRect(), row.getBoundingClientRect()]
    const above = box.top - frame.top - HEADING
    const below = box.bottom - frame.bottom
    // A step scrolls a little; a jump puts the bar a third of the way down, with what leads to it above.
    if (above < -box.height || below > box.height) list.value.scrollTop += above - frame.height / 3
    else if (above < 0) list.value.scrollTop += above - REVEAL_MARGIN
    else if (below > 0) list.value.scrollTop += below + REVEAL_MARGIN
  }
  const revealCursor = () => void nextTick(() => reveal(stack.cursor.value.bar))

  watch(
    () => stack.cursor.value.bar,
    // Under a hand that drags nothing may move away.
    (number) => void nextTick(() => isDragging() || reveal(number)),
  )
  watch(
    () => player.currentBar.value?.number,
    (number) => {
      if (player.isPlaying.value && number !== undefined) reveal(number)
    },
  )
  // Once phrases are known rows are laid out anew; the picture makes its bar's row taller.
  watch(() => found.grooves.value === null, revealCursor)
  watch(showPicture, (isShown) => isShown && revealCursor())
  onMounted(() => reveal(stack.cursor.value.bar))
}
