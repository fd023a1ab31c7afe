<!-- Work under way, with progress and cancel. -->
<script lang="ts">
  import { untrack } from "svelte";
  import { Button, ProgressBar } from "carbon-components-svelte";
  import ImportRows from "./ImportRows.svelte";
  import { useEditor } from "../state/editor.svelte";

  /** Kinds of work that are seen elsewhere. */
  let { quiet }: { quiet: readonly string[] } = $props();
  const { jobs } = useEditor();
  const list = $derived(jobs.list.filter(({ kind }) => !quiet.includes(kind)));
  const ids = $derived(list.map(({ id }) => id));
  /** Those that were under way at once, until none is left: the share in all counts those that have ended. */
  let together: readonly string[] = $state.raw([]);
  $effect(() => {
    const known = untrack(() => together);
    if (ids.length === 0) together = [];
    else if (ids.some((id) => !known.includes(id))) together = [...new Set([...known, ...ids])];
  });
  const ended = $derived(together.filter((id) => !ids.includes(id)).length);
  const inAll = $derived(
    (ended + list.reduce((sum, { progress }) => sum + progress, 0)) / Math.max(1, ended + list.length)
  );

  function cancelAll(): void {
    for (const work of [...list].reverse()) work.cancel();
  }
</script>

{#if list.length > 0 || jobs.imports.rows.length > 0}
  <div class="tray" role="region" aria-label="Work under way">
    <ImportRows />
    {#if list.length > 1}
      <div class="work all">
        <span class="title" role="status">In all: {ended} of {ended + list.length} are done</span>
        <ProgressBar size="sm" hideLabel labelText="All work" value={inAll} max={1} />
        <span class="number share">{Math.round(inAll * 100)} %</span>
        <Button kind="tertiary" size="small" on:click={cancelAll}>Cancel all</Button>
      </div>
    {/if}
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

  .all {
    font-weight: 600;
  }

  .share {
    text-align: right;
  }

  /* Else nothing is seen of one that has not begun. */
  .tray :global(.bx--progress-bar__track) {
    background: var(--w-rule);
  }

  /* It changes a few times a second: gliding from one to the next would have the page drawn all the time. */
  .tray :global(.bx--progress-bar__bar) {
    transition: none;
  }
</style>
