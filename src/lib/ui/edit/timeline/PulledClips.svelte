<!-- Clips that are being pulled: painted once where they were, then moved over the lanes as one picture. -->
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
    /** Counts tiles that have come for this picture. */
    arrivals: number;
  }

  let { pulled, stack, tiles, arrivals }: Props = $props();
  const { session, selection, view, layout } = useEditor();
  let canvas: HTMLCanvasElement | undefined = $state();
  /** Frame at the picture's left edge: half a screen before the view, as it was painted. */
  let painted = $state.raw({ left: 0, width: 0 });

  const lanes = $derived(pulled.shift.lanes);
  const moving = $derived(pulled.moving);

  /** Half screens: scrolled on by one, it is painted for where the view is now. */
  const page = $derived(Math.round((2 * view.left) / view.frames));

  $effect(() => {
    void [arrivals, page, view.framesPerPixel, view.width];
    if (canvas) paint(canvas, lanes);
  });

  function paint(onto: HTMLCanvasElement, down: number): void {
    untrack(() => {
      const ratio = window.devicePixelRatio || 1;
      const width = view.width * 2;
      const left = view.left - view.frames / 2;
      const context = sized(onto, width, stack.whole, ratio);
      context.clearRect(0, 0, onto.width, onto.height);
      const doc = session.document;
      const end = left + width * view.framesPerPixel;
      moving.tracks.forEach((track, i) => {
        const to = i + down;
        const clips = moving.clips
          .filter((clip) => clip.track === track && clip.start < end && clip.start + clip.length > left)
          .sort((a, b) => a.start - b.start)
          .map((clip) => resolveClip(doc, clip));
        if (clips.length === 0) return;
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
            width: onto.width,
            from: 0,
            to: onto.width,
            top: Math.round((stack.top(to) + CARD_TOP) * ratio),
            height: Math.round((stack.height(to) - CARD_LESS) * ratio),
            taller: view.height * layout.zoom(moving.tracks[to] ?? track),
            moving: false,
            selected: selection.ids,
            chosenStep: selection.stepId,
            broken: session.broken
          },
          clips,
          NOTHING
        );
      });
      painted = { left, width };
    });
  }

  const x = $derived((painted.left + pulled.shift.frames - view.left) / view.framesPerPixel);
</script>

<canvas
  bind:this={canvas}
  data-over
  aria-hidden="true"
  style:width="{painted.width}px"
  style:height="{stack.whole}px"
  style:transform="translateX({x}px)"
></canvas>

<style>
  canvas {
    position: absolute;
    top: 0;
    left: 0;
    opacity: 0.9;
    pointer-events: none;
    will-change: transform;
  }
</style>
