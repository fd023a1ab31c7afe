<!-- Named ranges of time: painted, with elements to press and to read aloud. -->
<script lang="ts">
  import Close from "carbon-icons-svelte/lib/Close.svelte";
  import { sectionsInOrder } from "$lib/core/session/lookup";
  import type { Section } from "$lib/core/session/schema";
  import { useEditor } from "../../state/editor.svelte";
  import { sized } from "./drawing/lanePainter";
  import { fitted, NAME_FONT } from "./drawing/names";
  import { currentPalette } from "./drawing/palette";
  import type { LaidOut } from "./laidOut.svelte";

  let { laidOut }: { laidOut: LaidOut } = $props();
  const editor = useEditor();
  const { session, view, selection, transport } = editor;
  const HEIGHT = 22;

  let canvas: HTMLCanvasElement | undefined = $state();
  const sections = $derived(sectionsInOrder(session.shown));

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
    for (const { name, start, length } of sections) {
      const left = Math.max(-4, Math.round(view.x(start)));
      const right = Math.min(view.width + 4, Math.round(view.x(start + length)));
      if (right <= 0 || left >= view.width) continue;
      context.fillStyle = palette.panel;
      context.fillRect(left, 2, right - left, 18);
      context.strokeRect(left + 0.5, 2.5, right - left - 1, 17);
      // A name stays in sight when its section's left end is not.
      const from = Math.max(0, left) + 5;
      context.fillStyle = palette.ink;
      context.fillText(fitted(context, name, right - from - 4).text, from, 15);
    }
  });

  function select({ start, length }: Section): void {
    selection.range = { from: start, to: start + length };
    transport.locate(start);
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
        title="Select the range of {section.name}"
        onclick={() => select(section)}
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
