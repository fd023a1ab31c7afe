<!-- The saved chains: pulled onto the bench or a clip, applied by their button, or deleted. -->
<script lang="ts">
  import TrashCan from "carbon-icons-svelte/lib/TrashCan.svelte";
  import { applyPreset } from "../../state/editing";
  import { useEditor } from "../../state/editor.svelte";
  import { pullPreset } from "../../state/pulledTreatment";

  const editor = useEditor();
  const { presets, selection } = editor;
</script>

<p class="soft hint">
  Applies to what is on the bench: {selection.title}. Or pull one onto a clip. It takes the place of the chain
  that is there.
</p>
{#each presets.list as preset (preset.id)}
  <div
    class="item"
    role="group"
    aria-label={preset.name}
    draggable="true"
    ondragstart={(event) => pullPreset(event, preset.id)}
  >
    <span class="text" title={preset.notes}>
      <span class="name">{preset.name}</span>
      <span class="soft">{preset.steps.length} step{preset.steps.length === 1 ? "" : "s"}</span>
    </span>
    {#if !preset.factory}
      <button
        class="bx--btn bx--btn--ghost bx--btn--sm bx--btn--icon-only quiet"
        aria-label="Delete preset {preset.name}"
        title="Delete"
        onclick={() => presets.remove(preset.id)}><TrashCan size={16} /></button
      >
    {/if}
    <button
      class="bx--btn bx--btn--tertiary bx--btn--sm"
      aria-label="Apply preset {preset.name}"
      onclick={() => applyPreset(editor, preset)}>Apply</button
    >
  </div>
{/each}

<style>
  .item {
    display: flex;
    align-items: center;
    gap: 2px;
    padding: 4px 2px 4px 4px;
    border-bottom: 1px solid var(--w-rule);
    cursor: grab;
  }

  .text {
    display: grid;
    flex: 1;
    min-width: 0;
    font-size: 12px;
  }

  .name {
    overflow: hidden;
    font-size: 13px;
    text-overflow: ellipsis;
    white-space: nowrap;
  }

  .quiet {
    opacity: 0;
  }

  .item:hover .quiet,
  .quiet:focus-visible {
    opacity: 1;
  }

  .hint {
    margin: 0 4px 4px;
  }
</style>
