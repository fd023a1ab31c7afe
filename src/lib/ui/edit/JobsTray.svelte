<!-- Work under way, with progress and cancel. -->
<script lang="ts">
  import { Button, ProgressBar } from "carbon-components-svelte";
  import ImportRows from "./ImportRows.svelte";
  import { useEditor } from "../state/editor.svelte";

  /** Kinds of work that are seen elsewhere. */
  let { quiet }: { quiet: readonly string[] } = $props();
  const { jobs } = useEditor();
  const list = $derived(jobs.list.filter(({ kind }) => !quiet.includes(kind)));
</script>

{#if list.length > 0 || jobs.imports.rows.length > 0}
  <div class="tray" role="region" aria-label="Work under way">
    <ImportRows />
    {#each list as work (work.id)}
      <div class="work">
        <span class="title">{work.title}</span>
        <ProgressBar size="sm" hideLabel labelText={work.title} value={work.progress} max={1} />
        <span class="number share">{Math.round(work.progress * 100)} %</span>
        <Button kind="tertiary" size="small" aria-label="Cancel: {work.title}" on:click={work.cancel}
          >Cancel</Button
        >
      </div>
    {/each}
  </div>
{/if}

<style>
  .tray {
    position: fixed;
    left: 12px;
    bottom: 12px;
    z-index: 9000;
    display: grid;
    gap: 4px;
    max-height: 40vh;
    padding: 8px;
    overflow-y: auto;
    border: 1px solid var(--w-soft);
    background: var(--w-panel);
    box-shadow: 0 2px 8px rgb(0 0 0 / 12%);
  }

  .work {
    display: grid;
    grid-template-columns: 220px 140px 48px auto;
    align-items: center;
    gap: 8px;
    font-size: 12px;
  }

  .title {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }

  .share {
    text-align: right;
  }
</style>
