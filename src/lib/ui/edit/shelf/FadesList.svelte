<!-- The saved shapes of fades: pulled onto the half of a clip that is to have them, or used by their buttons. -->
<script lang="ts">
  import { FADE_NAMES, fadeGain } from "$lib/core/audio/fades";
  import type { FadeShape } from "$lib/core/session/schema";
  import { useEditor } from "../../state/editor.svelte";
  import { pullFade } from "../../state/pulledTreatment";
  import { giveFade } from "../../state/shaping";

  const editor = useEditor();
  const { fadePresets, selection } = editor;
  const WIDTH = 36;
  const HEIGHT = 20;
  const EDGES = ["in", "out"] as const;

  const pathOf = (shape: FadeShape) =>
    Array.from({ length: 19 }, (_, i) => {
      const share = i / 18;
      return `${i === 0 ? "M" : "L"}${(share * WIDTH).toFixed(1)} ${((1 - fadeGain(share, shape)) * HEIGHT).toFixed(1)}`;
    }).join("");
</script>

<h3>Fades</h3>
{#each fadePresets.list as fade (fade.id)}
  <div
    class="item"
    role="group"
    aria-label="Fade {fade.name}"
    draggable="true"
    ondragstart={(event) => pullFade(event, fade.id)}
  >
    <svg width={WIDTH} height={HEIGHT} aria-hidden="true"><path d={pathOf(fade.shape)} /></svg>
    <span class="text" title={fade.notes}>
      <span class="name">{fade.name}</span>
      <span class="soft">{FADE_NAMES[fade.shape.curve]}</span>
    </span>
    {#each EDGES as edge (edge)}
      <button
        class="bx--btn bx--btn--tertiary bx--btn--sm"
        aria-label="Use {fade.name} to fade {edge}"
        disabled={selection.clipIds.length === 0}
        onclick={() => giveFade(editor, edge, fade.shape)}>{edge}</button
      >
    {/each}
  </div>
{:else}
  <p class="soft">None is saved yet: the editor of fades on the bench saves them.</p>
{/each}
{#if fadePresets.list.length > 0}
  <p class="soft">Pulled onto the first half of a clip it fades in, onto the second half out.</p>
{/if}

<style>
  h3 {
    margin: 14px 4px 4px;
    font-size: 13px;
    font-weight: 600;
  }

  p {
    margin: 4px;
  }

  .item {
    display: flex;
    align-items: center;
    gap: 6px;
    padding: 4px 2px 4px 4px;
    border-bottom: 1px solid var(--w-rule);
    cursor: grab;
  }

  svg {
    flex: none;
    overflow: visible;
    fill: none;
    stroke: var(--w-ink);
    stroke-width: 1.5;
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
</style>
