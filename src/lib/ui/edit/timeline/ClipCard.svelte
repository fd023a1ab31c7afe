<script lang="ts">
  import { clipState, type ClipState } from "$lib/core/session/clipState";
  import type { ResolvedClip } from "$lib/core/session/lookup";
  import { formatTime } from "$lib/core/units/time";
  import { notices } from "../../shared/notices.svelte";
  import { movingOf, moveCommand } from "../../state/moving";
  import { useEditor } from "../../state/editor.svelte";
  import { HEM, LEAST_WITH_GRIPS, NAME } from "./layout";
  import { tick } from "svelte";
  import { drawClip } from "./drawClip";
  import Hem from "./Hem.svelte";
  import SpanBands from "./SpanBands.svelte";

  let { clip, height }: { clip: ResolvedClip; height: number } = $props();
  const editor = useEditor();
  const { session, selection, view, waveforms } = editor;

  /** Pixels beyond the view that are still drawn. */
  const BEYOND = 20;
  const words: Record<ClipState, string> = {
    untreated: "untreated",
    live: "live",
    rendered: "rendered",
    stale: "the render no longer matches: the chain plays live",
    off: "all steps off"
  };

  let canvas: HTMLCanvasElement | undefined = $state();
  const x0 = $derived(Math.max(-BEYOND, view.x(clip.start)));
  const x1 = $derived(Math.min(view.width + BEYOND, view.x(clip.start + clip.length)));
  const width = $derived(Math.max(2, x1 - x0));
  const state_ = $derived(clipState(clip));
  const seconds = $derived(clip.length / editor.sampleRate);
  const steps = $derived(clip.steps.length);
  const broken = $derived(session.broken.get(clip.recordingId));
  const label = $derived(
    `${clip.name}, starts at ${formatTime(clip.start / editor.sampleRate)}, ${seconds.toFixed(2)} s, ${steps} step${steps === 1 ? "" : "s"}, ${words[state_]}${clip.muted ? ", muted" : ""}${broken ? `, the file of its recording is ${broken}` : ""}`
  );
  const fadeInX = $derived(view.x(clip.start + clip.fadeIn.length) - x0);
  const fadeOutX = $derived(view.x(clip.start + clip.length - clip.fadeOut.length) - x0);

  $effect(() => {
    if (!canvas) return;
    void editor.drawn;
    const style = getComputedStyle(canvas);
    const rendered = state_ === "rendered" || (state_ === "live" && clip.render !== null);
    drawClip(canvas, waveforms, {
      clip,
      left: view.left + x0 * view.framesPerPixel,
      framesPerPixel: view.framesPerPixel,
      width,
      height: height - NAME - HEM,
      taller: view.height,
      colour: style.getPropertyValue(rendered ? "--w-madder" : "--w-slate"),
      faint: style.getPropertyValue("--w-ink")
    });
  });

  function onkeydown(event: KeyboardEvent): void {
    if (event.key === "Enter" || event.key === " ") {
      if (event.key === " ") return;
      selection.choose(clip.id, event.shiftKey || event.ctrlKey || event.metaKey);
      event.preventDefault();
      return;
    }
    const way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
    if (!way || (way[1] !== 0 && !event.altKey)) return;
    event.preventDefault();
    const by = Math.round((event.shiftKey ? 0.001 : 0.01) * editor.sampleRate) * way[0];
    const ids = selection.has(clip.id) ? selection.clipIds : [clip.id];
    const command = moveCommand(movingOf(session.document, ids), by, way[1]);
    if (command && session.run(command)) keepFocus();
  }

  /** On another track it is another element. */
  function keepFocus(): void {
    const { id } = clip;
    tick()
      .then(() => document.querySelector<HTMLElement>(`[data-clip="${CSS.escape(id)}"]`)?.focus())
      .catch((error: unknown) => notices.fault(error));
  }
</script>

{#if x1 > -BEYOND && x0 < view.width + BEYOND}
  <div
    class="clip"
    class:selected={selection.has(clip.id)}
    class:muted={clip.muted}
    style:left="{x0}px"
    style:width="{width}px"
    style:height="{height}px"
    role="button"
    tabindex="0"
    aria-label={label}
    aria-pressed={selection.has(clip.id)}
    title={label}
    data-clip={clip.id}
    onclick={(event) => {
      event.stopPropagation();
      selection.choose(clip.id, event.shiftKey || event.ctrlKey || event.metaKey);
    }}
    {onkeydown}
  >
    <div class="body">
      <div class="name" class:broken style:margin-left="{Math.max(0, -x0)}px">
        {broken ? `(${broken}) ` : ""}{clip.muted ? "(muted) " : ""}{clip.name}
      </div>
      <canvas bind:this={canvas} style:height="{height - NAME - HEM}px" style:width="{width}px"></canvas>
      <SpanBands {clip} {x0} />
      <Hem state={state_} {steps} />
    </div>
    <div class="edge left" data-edge="left"></div>
    <div class="edge right" data-edge="right"></div>
    {#if width > LEAST_WITH_GRIPS}
      <div
        class="grip"
        data-grip="in"
        style:left="{Math.max(0, fadeInX) - 1}px"
        title="Drag to fade in: {(clip.fadeIn.length / editor.sampleRate).toFixed(3)} s"
      ></div>
      <div
        class="grip out"
        data-grip="out"
        style:left="{Math.min(width, fadeOutX) - 10}px"
        title="Drag to fade out: {(clip.fadeOut.length / editor.sampleRate).toFixed(3)} s"
      ></div>
    {/if}
  </div>
{/if}

<style>
  .clip {
    position: absolute;
    top: 2px;
    box-sizing: border-box;
    overflow: hidden;
    border: 1px solid var(--w-soft);
    border-radius: 2px;
    background: var(--w-panel);
    cursor: grab;
    touch-action: none;
    user-select: none;
  }

  .clip.selected {
    border: 2px solid var(--w-ochre);
    background: color-mix(in srgb, var(--w-ochre) 14%, var(--w-panel));
  }

  .clip.muted canvas {
    opacity: 0.35;
  }

  .clip:focus-visible {
    outline-offset: -3px;
  }

  .name {
    height: 15px;
    padding: 0 12px 0 5px;
    overflow: hidden;
    font-size: 11px;
    line-height: 15px;
    text-overflow: ellipsis;
    white-space: nowrap;
  }

  .name.broken {
    color: var(--w-madder);
    font-weight: 600;
  }

  /* The grips lie in the corners: the name makes room. */
  .clip:hover .name,
  .clip.selected .name {
    padding-left: 14px;
  }

  canvas {
    display: block;
  }

  .edge {
    position: absolute;
    top: 14px;
    bottom: 0;
    width: 6px;
    cursor: ew-resize;
    touch-action: none;
  }

  .edge.left {
    left: 0;
  }

  .edge.right {
    right: 0;
  }

  .grip {
    position: absolute;
    top: 0;
    width: 10px;
    height: 10px;
    box-sizing: border-box;
    border: 1.5px solid var(--w-ink);
    background: var(--w-panel);
    cursor: ew-resize;
    touch-action: none;
    opacity: 0;
  }

  .clip:hover .grip,
  .clip.selected .grip {
    opacity: 1;
  }
</style>
