<!-- Clips that are being pulled: painted once where they were, as far as they come into sight, then copied to where they are with every frame.
     (Moved by a style they would have the browser put all layers of the page together anew, which costs more.) -->
<script lang="ts">
  import { untrack } from "svelte";
  import { resolveClip, type ResolvedClip } from "$lib/core/session/lookup";
  import type { Tiles } from "$lib/waveform/tiles";
  import { useEditor } from "../../state/editor.svelte";
  import { NOTHING, type Pulled } from "../../state/pull.svelte";
  import { sized } from "../../shared/sizedCanvas";
  import { drawClips } from "./drawing/lanePainter";
  import { currentPalette } from "../../shared/palette";
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

  /** Pixels that are painted before they come into sight. */
  const AHEAD = 96;

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

  /** A lane that the clips have come to: its part of the picture, in device pixels, and the clips on it. */
  interface Row {
    readonly top: number;
    readonly height: number;
    readonly taller: number;
    readonly clips: readonly ResolvedClip[];
  }
  let rows: readonly Row[] = [];
  /** Columns of the picture that are painted: none that were never in sight. */
  let columns = { from: 0, to: 0 };

  $effect(() => {
    void [arrivals, page, view.framesPerPixel, view.width];
    begin(reached, lanes);
  });

  /** Begins a new picture. */
  function begin(reachedLanes: readonly number[], down: number): void {
    untrack(() => {
      const ratio = window.devicePixelRatio || 1;
      const width = view.width * 2;
      const left = view.left - view.frames / 2;
      sized(picture, width, height, ratio).clearRect(0, 0, picture.width, picture.height);
      const end = left + width * view.framesPerPixel;
      rows = reachedLanes.map((to) => {
        const track = moving.tracks[to - down];
        return {
          top: Math.round((stack.top(to) - top + CARD_TOP) * ratio),
          height: Math.round((stack.height(to) - CARD_LESS) * ratio),
          taller: view.height * layout.zoom(moving.tracks[to] ?? ""),
          clips: moving.clips
            .filter((clip) => clip.track === track && clip.start < end && clip.start + clip.length > left)
            .sort((a, b) => a.start - b.start)
            .map((clip) => resolveClip(session.document, clip))
        };
      });
      columns = { from: 0, to: 0 };
      painted = { left };
    });
  }

  /** Paints columns of the picture that are not painted yet, so that these are. */
  function cover(from: number, to: number): void {
    const [first, last] = [Math.max(0, from), Math.min(picture.width, to)];
    if (last <= first) return;
    if (columns.from === columns.to) columns = { from: first, to: first };
    paint(first, columns.from);
    paint(columns.to, last);
    columns = { from: Math.min(first, columns.from), to: Math.max(last, columns.to) };
  }

  function paint(from: number, to: number): void {
    if (to <= from) return;
    const ratio = window.devicePixelRatio || 1;
    const context = sized(picture, view.width * 2, height, ratio);
    context.save();
    context.beginPath();
    context.rect(from, 0, to - from, picture.height);
    context.clip();
    for (const { clips, ...place } of rows) {
      if (clips.length === 0) continue;
      drawClips(
        {
          ...place,
          context,
          tiles,
          doc: session.document,
          palette: currentPalette(),
          ratio,
          lane: "pulled",
          left: painted.left,
          framesPerPixel: view.framesPerPixel / ratio,
          width: picture.width,
          from,
          to,
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
    context.restore();
  }

  $effect(() => {
    if (!canvas) return;
    const ratio = window.devicePixelRatio || 1;
    const x = Math.round(((painted.left + pulled.shift.frames - view.left) / view.framesPerPixel) * ratio);
    const context = sized(canvas, view.width, height, ratio);
    const [from, to] = [-x, -x + canvas.width];
    // A little more than is in sight: not a strip with every move.
    if (from < columns.from || to > columns.to) untrack(() => cover(from - AHEAD, to + AHEAD));
    context.globalCompositeOperation = "copy";
    context.drawImage(picture, x, 0);
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
