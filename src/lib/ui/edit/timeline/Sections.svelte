<!-- Named ranges of time: painted, with elements to press and to read aloud. -->
<script lang="ts">
  import Close from "carbon-icons-svelte/lib/Close.svelte";
  import { sectionsInOrder } from "$lib/core/session/lookup";
  import type { Section } from "$lib/core/session/schema";
  import { sameList } from "../../shared/sameList";
  import { useEditor } from "../../state/editor.svelte";
  import { Preferences } from "../../state/preferences.svelte";
  import { snapEdges } from "../../state/snapping";
  import { sized } from "../../shared/sizedCanvas";
  import { NAME_FONT } from "../../shared/canvasFonts";
  import { fitted } from "./drawing/names";
  import { currentPalette } from "../../shared/palette";
  import type { LaidOut } from "./laidOut.svelte";

  let { laidOut }: { laidOut: LaidOut } = $props();
  const editor = useEditor();
  const { session, view, selection, transport, preferences } = editor;
  const HEIGHT = 22;

  let canvas: HTMLCanvasElement | undefined = $state();
  const same = sameList<Section>();
  const sections = $derived(same(sectionsInOrder(session.shown)));

  $effect(() => {
    if (!canvas) return;
    const palette = currentPalette();
    const ratio = window.devicePixelRatio || 1;
    const context = sized(canvas, view.width, HEIGHT, ratio);
    context.setTransform(ratio, 0, 0, ratio, 0, 0);
    context.fillStyle = palette.paper;
    context.fillRect(0, 0, view.width, HEIGHT);
    context.fillStyle = palette.rule;
    context.fillRect(0, HEIGHT - 1, view.width, 1);
    context.font = NAME_FONT;
    context.strokeStyle = palette.slate;
    for (const { id, name, start, length } of sections) {
      const left = Math.max(-4, Math.round(view.x(start)));
      const right = Math.min(view.width + 4, Math.round(view.x(start + length)));
      if (right <= 0 || left >= view.width) continue;
      context.fillStyle = id === selection.section ? palette.select : palette.panel;
      context.fillRect(left, 2, right - left, 18);
      context.strokeRect(left + 0.5, 2.5, right - left - 1, 17);
      // A name stays in sight when its section's left end is not.
      const from = Math.max(0, left) + 5;
      context.fillStyle = palette.ink;
      context.fillText(fitted(context, name, right - from - 4).text, from, 15);
    }
  });

  function select({ id, start }: Section): void {
    selection.chooseSection(id);
    transport.locate(start);
  }

  /** A section that is pulled: along, or by one of its ends. */
  let pulled: { section: Section; part: "all" | "start" | "end"; x: number; id: number } | undefined;
  let change: { start: number; length: number } | undefined;
  const EDGE = 6;
  /** Less is a click. */
  const CLICK_PIXELS = 3;

  function down(event: PointerEvent & { currentTarget: HTMLElement }, section: Section): void {
    if (event.button !== 0) return;
    const box = event.currentTarget.getBoundingClientRect();
    const [left, right] = [event.clientX - box.left, box.right - event.clientX];
    const part = left < EDGE ? "start" : right < EDGE ? "end" : "all";
    pulled = { section, part, x: event.clientX, id: event.pointerId };
    change = undefined;
  }

  function pullTo(event: PointerEvent & { currentTarget: HTMLElement }): void {
    if (pulled?.id !== event.pointerId) return;
    const { section, part, x } = pulled;
    if (!change && Math.abs(event.clientX - x) <= CLICK_PIXELS) return;
    if (!change) event.currentTarget.setPointerCapture(event.pointerId);
    const by = Math.round((event.clientX - x) * view.framesPerPixel);
    const { start, length } = section;
    const edges =
      part === "start"
        ? [start + by]
        : part === "end"
          ? [start + length + by]
          : [start + by, start + length + by];
    const on = by + (snapEdges(editor, { edges, free: event.altKey })?.by ?? 0);
    if (part === "all") change = { start: Math.max(0, start + on), length };
    else if (part === "end") change = { start, length: Math.max(1, length + on) };
    else {
      const first = Math.max(0, Math.min(start + length - 1, start + on));
      change = { start: first, length: start + length - first };
    }
    session.draft({ type: "section.set", sectionId: section.id, ...change });
  }

  function letGo(keep: boolean): void {
    const [was, now] = [pulled, change];
    pulled = undefined;
    editor.pull.over();
    if (!was || !now) return;
    if (keep) session.run({ type: "section.set", sectionId: was.section.id, ...now });
    else session.draft(null);
  }

  /** Keys move a section by the set amount; with Alt its end. */
  function key(event: KeyboardEvent, { id, start, length }: Section): void {
    if (event.key === "Escape" && change) {
      event.stopPropagation();
      change = undefined;
      pulled = undefined;
      session.draft(null);
      return;
    }
    const way = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    if (way === undefined) return;
    event.preventDefault();
    event.stopPropagation();
    const by = way * Math.max(1, Preferences.frames(preferences.nudgeMs, editor.sampleRate));
    session.run({
      type: "section.set",
      sectionId: id,
      ...(event.altKey ? { length: Math.max(1, length + by) } : { start: Math.max(0, start + by) })
    });
  }
</script>

<div class="sections" role="group" aria-label="Sections">
  <canvas bind:this={canvas} aria-hidden="true" style:width="{view.width}px" style:height="{HEIGHT}px"
  ></canvas>
  {#each sections as section (section.id)}
    {@const box = laidOut.box(section.start, section.length)}
    <span
      class="section"
      role="group"
      aria-label={section.name}
      oncontextmenu={(event) =>
        editor.offer(event, "section", section.name, { table: "sections", id: section.id })}
      style:left="{box.left}px"
      style:width="{box.width}px"
    >
      <button
        class="name"
        aria-label={section.name}
        title="{section.name}: click selects its time, double click zooms to it, pulling moves it or its ends"
        aria-pressed={selection.section === section.id}
        onpointerdown={(event) => down(event, section)}
        onpointermove={pullTo}
        onpointerup={() => letGo(true)}
        onpointercancel={() => letGo(false)}
        onkeydown={(event) => key(event, section)}
        onclick={() => select(section)}
        ondblclick={() => view.show(section.start, section.start + section.length)}
      ></button>
      <button
        class="remove"
        aria-label="Remove section {section.name}"
        onclick={() => session.run({ type: "section.remove", sectionId: section.id })}
        ><Close size={16} /></button
      >
    </span>
  {:else}
    <span class="hint soft">Select a range on the ruler to name it as a section.</span>
  {/each}
</div>

<style>
  .sections {
    position: relative;
    height: 22px;
    overflow: clip;
    background: var(--w-paper);
  }

  canvas {
    display: block;
  }

  .section {
    position: absolute;
    top: 2px;
    display: flex;
    box-sizing: border-box;
    height: 18px;
    overflow: hidden;
  }

  .section button {
    border: 0;
    padding: 0;
    background: transparent;
    color: var(--w-ink);
    cursor: pointer;
  }

  .name {
    flex: 1;
  }

  .section .remove {
    width: 0;
    overflow: hidden;
  }

  .section:hover .remove,
  .section .remove:focus-visible {
    width: 20px;
    background: var(--w-panel);
  }

  .hint {
    position: absolute;
    top: 0;
    left: 8px;
    font-size: 12px;
    line-height: 22px;
  }
</style>
