<!-- The time above the lanes, painted: its labels move with every frame of scrolling. -->
<script lang="ts">
  import { formatTime } from "$lib/core/units/time";
  import { gridStep, placeText } from "$lib/core/units/timeFormat";
  import { draggable } from "../../shared/draggable";
  import { useEditor } from "../../state/editor.svelte";
  import { snapEdges } from "../../state/snapping";
  import { sized } from "../../shared/sizedCanvas";
  import { currentPalette } from "../../shared/palette";

  const editor = useEditor();
  const { view, selection, transport, sampleRate, preferences, pull } = editor;
  const MIN_PIXELS = 86;
  const HEIGHT = 22;
  const FONT = '12px "IBM Plex Mono", ui-monospace, monospace';

  /** Frames between two labels. */
  const step = $derived(gridStep(MIN_PIXELS * view.framesPerPixel, sampleRate, preferences.time));
  const decimals = $derived.by(() => {
    const seconds = step / sampleRate;
    return seconds >= 1 ? 0 : seconds >= 0.1 ? 1 : seconds >= 0.01 ? 2 : 3;
  });

  function label(frame: number): string {
    const { time } = preferences;
    return time.kind === "clock"
      ? formatTime(frame / sampleRate, decimals)
      : placeText(frame, sampleRate, time);
  }

  let bar: HTMLElement | undefined = $state();
  let canvas: HTMLCanvasElement | undefined = $state();
  let fonts = $state(0);
  document.fonts
    .load(FONT)
    .catch(() => [])
    .finally(() => fonts++);

  $effect(() => {
    void fonts;
    if (!canvas) return;
    const palette = currentPalette();
    const ratio = window.devicePixelRatio || 1;
    const context = sized(canvas, view.width, HEIGHT, ratio);
    context.setTransform(ratio, 0, 0, ratio, 0, 0);
    context.fillStyle = palette.panel;
    context.fillRect(0, 0, view.width, HEIGHT);
    context.font = FONT;
    const first = Math.floor(view.left / step);
    const last = Math.floor((view.left + view.frames) / step);
    for (let i = first; i <= last; i++) {
      const x = view.x(i * step);
      context.fillStyle = palette.rule;
      context.fillRect(Math.round(x), 0, 1, HEIGHT);
      context.fillStyle = palette.soft;
      context.fillText(label(Math.round(i * step)), Math.round(x) + 5, 15);
    }
    context.fillStyle = palette.rule;
    context.fillRect(0, HEIGHT - 1, view.width, 1);
  });

  let anchor = 0;

  function frameOf(clientX: number): number {
    return view.frameAt(clientX - (bar?.getBoundingClientRect().left ?? 0));
  }

  function drag(dx: number, _dy: number, clientX: number): void {
    const here = frameOf(clientX);
    if (anchor < 0) anchor = view.frameAt(clientX - dx - (bar?.getBoundingClientRect().left ?? 0));
    if (Math.abs(dx) <= 3) return;
    const snapped = here + (snapEdges(editor, { edges: [here], free: false })?.by ?? 0);
    selection.range = {
      from: Math.min(anchor, snapped),
      to: Math.max(anchor, snapped) + (snapped === anchor ? 1 : 0)
    };
  }
</script>

<!-- Keyboard: Home, End, the range keys and the typed fields of the transport line do all that the ruler does. -->
<!-- svelte-ignore a11y_click_events_have_key_events, a11y_no_static_element_interactions -->
<div
  class="ruler"
  bind:this={bar}
  title="Click to go there, drag to select a range"
  onclick={(event) => transport.locate(frameOf(event.clientX))}
  oncontextmenu={(event) => editor.offer(event, "ruler", "Time")}
  use:draggable={{ onstart: () => (anchor = -1), onmove: drag, onend: () => pull.over() }}
>
  <canvas bind:this={canvas} aria-hidden="true" style:width="{view.width}px" style:height="{HEIGHT}px"
  ></canvas>
</div>

<style>
  .ruler {
    height: 22px;
    overflow: hidden;
    background: var(--w-panel);
    cursor: text;
    touch-action: none;
    user-select: none;
  }

  canvas {
    display: block;
  }
</style>
