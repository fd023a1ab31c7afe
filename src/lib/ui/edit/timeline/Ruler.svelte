<script lang="ts">
  import { formatTime } from "$lib/core/units/time";
  import { draggable } from "../../shared/draggable";
  import { useEditor } from "../../state/editor.svelte";

  const editor = useEditor();
  const { view, selection, transport, sampleRate } = editor;
  const STEPS = [
    0.001, 0.002, 0.005, 0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10, 15, 30, 60, 120, 300, 600, 1800
  ];
  const MIN_PIXELS = 86;

  const step = $derived(
    STEPS.find((s) => (s * sampleRate) / view.framesPerPixel >= MIN_PIXELS) ?? STEPS[STEPS.length - 1]
  );
  const ticks = $derived.by(() => {
    const first = Math.ceil(view.left / sampleRate / step);
    const last = Math.floor((view.left + view.frames) / sampleRate / step);
    return Array.from({ length: Math.max(0, last - first + 1) }, (_, i) => (first + i) * step);
  });
  const decimals = $derived(step >= 1 ? 0 : step >= 0.1 ? 1 : step >= 0.01 ? 2 : 3);

  let bar: HTMLElement | undefined = $state();
  let anchor = 0;

  function frameOf(clientX: number): number {
    return view.frameAt(clientX - (bar?.getBoundingClientRect().left ?? 0));
  }

  function drag(dx: number, _dy: number, clientX: number): void {
    const here = frameOf(clientX);
    if (anchor < 0) anchor = view.frameAt(clientX - dx - (bar?.getBoundingClientRect().left ?? 0));
    if (Math.abs(dx) > 3) selection.range = { from: Math.min(anchor, here), to: Math.max(anchor, here) + 1 };
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
  use:draggable={{ onstart: () => (anchor = -1), onmove: drag, onend: () => undefined }}
>
  {#each ticks as tick (tick)}
    <span class="tick number" style:left="{view.x(tick * sampleRate)}px">{formatTime(tick, decimals)}</span>
  {/each}
</div>

<style>
  .ruler {
    position: relative;
    height: 22px;
    overflow: hidden;
    border-bottom: 1px solid var(--w-rule);
    background: var(--w-panel);
    cursor: text;
    touch-action: none;
    user-select: none;
  }

  .tick {
    position: absolute;
    top: 0;
    height: 22px;
    padding-left: 4px;
    border-left: 1px solid var(--w-rule);
    font-size: 12px;
    line-height: 22px;
    color: var(--w-soft);
    pointer-events: none;
  }
</style>
