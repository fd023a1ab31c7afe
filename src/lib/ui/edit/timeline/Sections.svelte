<script lang="ts">
  import Close from "carbon-icons-svelte/lib/Close.svelte";
  import { sectionsInOrder } from "$lib/core/session/lookup";
  import { useEditor } from "../../state/editor.svelte";

  const editor = useEditor();
  const { session, view, selection, transport } = editor;
</script>

<div class="sections" role="group" aria-label="Sections">
  {#each sectionsInOrder(session.shown) as section (section.id)}
    <span
      class="section"
      role="group"
      aria-label={section.name}
      oncontextmenu={(event) =>
        editor.offer(event, "section", section.name, { table: "sections", id: section.id })}
      style:left="{view.x(section.start)}px"
      style:width="{section.length / view.framesPerPixel}px"
    >
      <button
        class="name"
        style:padding-left="{5 + Math.max(0, -view.x(section.start))}px"
        title="Select the range of {section.name}"
        onclick={() => {
          selection.range = { from: section.start, to: section.start + section.length };
          transport.locate(section.start);
        }}>{section.name}</button
      >
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
    overflow: hidden;
    border-bottom: 1px solid var(--w-rule);
    background: var(--w-paper);
  }

  .section {
    position: absolute;
    top: 2px;
    display: flex;
    box-sizing: border-box;
    height: 18px;
    overflow: hidden;
    border: 1px solid var(--w-slate);
    border-radius: 2px;
    background: var(--w-panel);
  }

  .section button {
    border: 0;
    padding: 0 5px;
    background: transparent;
    color: var(--w-ink);
    font-size: 12px;
    cursor: pointer;
    white-space: nowrap;
  }

  .name {
    flex: 1;
    overflow: hidden;
    text-align: left;
    text-overflow: ellipsis;
  }

  .section .remove {
    width: 0;
    padding: 0;
    overflow: hidden;
  }

  .section:hover .remove,
  .section .remove:focus-visible {
    width: 18px;
  }

  .hint {
    padding-left: 8px;
    font-size: 12px;
    line-height: 22px;
  }
</style>
