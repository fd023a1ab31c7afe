<!-- The clips whose treatment costs most while it plays: which of them are rendered. -->
<script lang="ts">
  import { Checkbox, Modal, ProgressBar } from "carbon-components-svelte";
  import { onDestroy } from "svelte";
  import { formatTime } from "$lib/core/units/time";
  import { notices } from "../../shared/notices.svelte";
  import { toggled } from "../../shared/toggled";
  import { useEditor } from "../../state/editor.svelte";
  import { EASY_SHARE, LiveCosts } from "../../state/liveCosts.svelte";

  const editor = useEditor();
  const costs = new LiveCosts(editor.session.document);
  onDestroy(() => costs.close());

  /** Rows that are shown: what costs less is no matter. */
  const MOST_ROWS = 200;
  const close = () => (editor.dialog = null);
  const percent = (share: number) =>
    share > 0 && share < 0.0005 ? "< 0.1 %" : `${(share * 100).toFixed(share < 0.0995 ? 1 : 0)} %`;
  const time = (frame: number) => formatTime(frame / editor.sampleRate, 1);
  const toggle = (id: string) => (costs.chosen = toggled(costs.chosen, id));
  const ready = $derived(costs.progress === 1 && costs.rows.length > 0);

  function go(): void {
    const clipIds = costs.rows.map(({ id }) => id).filter((id) => costs.chosen.has(id));
    if (clipIds.length === 0) return;
    close();
    editor.jobs
      .startRenders({ into: "each", clipIds, upTo: null, handles: 2, tail: "auto", shared: true, name: null })
      .catch((error: unknown) => notices.fault(error));
  }
</script>

<Modal
  open
  size="sm"
  modalHeading="Render the dearest"
  primaryButtonText={costs.chosen.size === 0 ? "Render" : `Render ${costs.chosen.size}`}
  secondaryButtonText="Cancel"
  primaryButtonDisabled={!ready || costs.chosen.size === 0}
  on:submit={go}
  on:close={close}
  on:click:button--secondary={close}
>
  {#if costs.rows.length === 0}
    <p>No clip is treated live: there is nothing to render.</p>
  {:else if costs.progress < 1}
    <ProgressBar size="sm" labelText="Measuring what the steps take" value={costs.progress} max={1} />
  {:else}
    <p>
      At its busiest, at <span class="number">{time(costs.before.at)}</span>, live treatment of clips takes
      <span class="number">{percent(costs.before.share)}</span>
      of a processor core; with {costs.chosen.size} rendered
      <span class="number">{percent(costs.after.share)}</span>. {#if costs.buses > 0}Chains of tracks and the
        mix take <span class="number">{percent(costs.buses)}</span> beside that, always.{/if}
    </p>
    <ul aria-label="Clips that are treated live, the dearest first">
      {#each costs.rows.slice(0, MOST_ROWS) as row (row.id)}
        <li>
          <Checkbox
            labelText={row.name}
            checked={costs.chosen.has(row.id)}
            on:check={({ detail }) => detail !== costs.chosen.has(row.id) && toggle(row.id)}
          />
          <span class="soft">{row.track}</span>
          <span class="soft">{row.steps} step{row.steps === 1 ? "" : "s"}</span>
          <span class="number">{time(row.from)}</span>
          <span class="number share">{percent(row.share)}</span>
        </li>
      {/each}
    </ul>
    {#if costs.rows.length > MOST_ROWS}
      <p class="soft">And {costs.rows.length - MOST_ROWS} that cost less.</p>
    {/if}
    <p class="soft">
      Chosen are as many as bring it under {percent(EASY_SHARE)} of a core everywhere, or the dearest one. The steps
      stay, and restoring brings them back.
    </p>
    {#each costs.faults as fault (fault)}<p class="fault">{fault}</p>{/each}
  {/if}
</Modal>

<style>
  p {
    margin-bottom: 10px;
    font-size: 13px;
  }

  ul {
    max-height: 260px;
    margin-bottom: 10px;
    padding: 2px 10px;
    overflow-y: auto;
    border: 1px solid var(--w-rule);
    font-size: 13px;
  }

  li {
    display: grid;
    grid-template-columns: 1fr 110px 56px 56px 56px;
    align-items: center;
    gap: 8px;
  }

  .share {
    text-align: right;
  }

  .fault {
    color: var(--w-madder);
  }
</style>
