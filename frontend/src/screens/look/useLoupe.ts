import { computed, ref, type Ref } from 'vue'

export const ZOOMS = [0, 1, 2, 4] as const
export type Zoom = (typeof ZOOMS)[number]

/**
 * A loupe over pictures of one raster: 0 fits them into the stage, else so many screen pixels stand for one of theirs. What is in
 * the middle is kept as shares of the picture, so that pictures of two rasters are panned alike.
 */
export function useLoupe(stage: Ref<HTMLElement | undefined>, raster: () => [number, number] | undefined) {
  const zoom = ref<Zoom>(0)
  const middle = ref<[number, number]>([0.5, 0.5])
  const dense = () => window.devicePixelRatio || 1
  const size = computed(() => {
    const [width, height] = raster() ?? [16, 9]
    return [(width * zoom.value) / dense(), (height * zoom.value) / dense()] as const
  })
  /** How every picture lies in the stage. */
  const style = computed(() => {
    if (!zoom.value) return {}
    const [x, y] = middle.value
    return {
      inset: 'auto', width: `${size.value[0]}px`, height: `${size.value[1]}px`, left: `calc(50% - ${x * size.value[0]}px)`,
      top: `calc(50% - ${y * size.value[1]}px)`, maxWidth: 'none', imageRendering: (zoom.value > 1 ? 'pixelated' : 'auto') as 'pixelated' | 'auto',
    }
  })
  const within = (value: number) => Math.min(1, Math.max(0, value))

  /** Where a pointer is in the picture, as shares. */
  function under(event: MouseEvent): [number, number] {
    const pane = (event.target as HTMLElement).closest('[data-pane]') ?? stage.value!
    const box = pane.getBoundingClientRect()
    const off = [event.clientX - box.left - box.width / 2, event.clientY - box.top - box.height / 2]
    if (!zoom.value) return [within(off[0] / box.width + 0.5), within(off[1] / box.height + 0.5)]
    return [within(middle.value[0] + off[0] / size.value[0]), within(middle.value[1] + off[1] / size.value[1])]
  }
  function to(next: Zoom, around?: [number, number]): void {
    if (around && !(zoom.value && next)) middle.value = around
    zoom.value = next
  }
  const step = (by: 1 | -1, around?: [number, number]) => to(ZOOMS[Math.min(ZOOMS.length - 1, Math.max(0, ZOOMS.indexOf(zoom.value) + by))], around)
  const wheel = (event: WheelEvent) => step(event.deltaY < 0 ? 1 : -1, under(event))
  const twice = (event: MouseEvent) => to(zoom.value ? 0 : 2, under(event))
  /** Move by so many px on the screen. */
  function pan(x: number, y: number): void {
    if (zoom.value) middle.value = [within(middle.value[0] - x / size.value[0]), within(middle.value[1] - y / size.value[1])]
  }
  return { zoom, style, to, step, wheel, twice, pan }
}
