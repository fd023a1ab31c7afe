<!-- Clips that are being pulled: painted once where they were, then copied to where they are with every frame. (Moved by a style they would have
     the browser put all layers of the page together anew, which costs more.) -->
<script lang="ts">
  import { untrack } from "svelte";
  import { resolveClip } from "$lib/core/session/lookup";
  import type { Tiles } from "$lib/waveform/tiles";
  import { useEditor } from "../../state/editor.svelte";
  import { NOTHING, type Pulled } from "../../state/pull.svelte";
  import { drawClips, sized } from "./drawing/lanePainter";
  import { currentPalette } from "./drawing/palette";
  import { CARD_LESS, CARD_TOP, type LaneStack } from "./layout";

  interface Props {
    pulled: Pulled;
    stack: LaneStack;
    tiles: Tiles<ImageBitmap>;
    /** Which lanes are in sight, or nearly. */
    near: readonly boolean[];
    /** Counts tiles that have come for this picture. */
    arrivals: number;
  }

  let { pulled, stack, tiles, near, arrivals }: Props = $props();
  const { session, selection, view, layout, transport } = useEditor();
  let canvas: HTMLCanvasElement | undefined = $state();
  const picture = document.createElement("canvas");
  picture.dataset.over = "";
  /** What the picture shows: the frame at its left edge, half a screen before the view as it was painted. */
  let painted = $state.raw({ left: 0 });

  const lanes = $derived(pulled.shift.lanes);
  const moving = $derived(pulled.moving);

  /** Lanes that the clips have come to, of those in sight. */
  const reached = $derived.by(() => {
    const from = new Set(moving.clips.map((clip) => clip.track));
    return moving.tracks.flatMap((track, i) => (from.has(track) && near[i + lanes] ? [i + lanes] : []));
  });
  const top = $derived(stack.top(reached[0] ?? 0));
  const height = $derived.by(() => {
    const last = reached[reached.length - 1] ?? 0;
    return stack.top(last) + stack.height(last) - top;
  });

  /** Half screens: scrolled on by one, it is painted for where the view is now. */
  const page = $derived(Math.round((2 * view.left) / view.frames));

  $effect(() => {
    void [arrivals, page, view.framesPerPixel, view.width];
    paint(reached, lanes);
  });

  function paint(reachedLanes: readonly number[], down: number): void {
    untrack(() => {
      const ratio = window.devicePixelRatio || 1;
      const width = view.width * 2;
      const left = view.left - view.frames / 2;
      const context = sized(picture, width, height, ratio);
      context.clearRect(0, 0, picture.width, picture.height);
      const doc = session.document;
      const end = left + width * view.framesPerPixel;
      for (const to of reachedLanes) {
        const track = moving.tracks[to - down];
        const clips = moving.clips
          .filter((clip) => clip.track === track && clip.start < end && clip.start + clip.length > left)
          .sort((a, b) => a.start - b.start)
          .map((clip) => resolveClip(doc, clip));
        if (clips.length === 0) continue;
        drawClips(
          {
            context,
            tiles,
            doc,
            palette: currentPalette(),
            ratio,
            lane: "pulled",
            left,
            framesPerPixel: view.framesPerPixel / ratio,
            width: picture.width,
            from: 0,
            to: picture.width,
            top: Math.round((stack.top(to) - top + CARD_TOP) * ratio),
            height: Math.round((stack.height(to) - CARD_LESS) * ratio),
            taller: view.height * layout.zoom(moving.tracks[to] ?? ""),
            moving: false,
            selected: selection.ids,
            chosenStep: selection.stepId,
            broken: session.broken,
            computing: transport.computing
          },
          clips,
          NOTHING
        );
      }
      painted = { left };
    });
  }

  $effect(() => {
    if (!canvas) return;
    const ratio = window.devicePixelRatio || 1;
    const x = (painted.left + pulled.shift.frames - view.left) / view.framesPerPixel;
    const context = sized(canvas, view.width, height, ratio);
    context.globalCompositeOperation = "copy";
    context.drawImage(picture, Math.round(x * ratio), 0);
  });
</script>

<canvas
  bind:this={canvas}
  data-over
  aria-hidden="true"
  style:top="{top}px"
  style:width="{view.width}px"
  style:height="{height}px"
></canvas>

<style>
  canvas {
    position: absolute;
    left: 0;
    opacity: 0.9;
    pointer-events: none;
  }
</style>
