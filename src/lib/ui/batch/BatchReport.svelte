<!-- What became of a batch: progress of each sound and of all, loudness before and after, what failed and why. -->
<script lang="ts">
  import { Button, ProgressBar } from "carbon-components-svelte";
  import type { BatchView } from "$lib/api/batches";
  import { formatDb } from "$lib/core/units/decibels";
  import { day } from "../shared/day";
  import { useEditor } from "../state/editor.svelte";
  import { saveText } from "../state/saveText";
  import { reportCsv, stateText } from "./report";

  let { batch }: { batch: BatchView } = $props();
  const { batches } = useEditor();
  const ended = $derived(batch.items.filter((item) => item.state !== "queued" && item.state !== "running"));
  const failed = $derived(batch.items.filter((item) => item.state === "failed").length);
  const done = $derived(batch.items.filter((item) => item.state === "done").length);
  const share = $derived(
    batch.items.reduce((sum, item) => sum + (ended.includes(item) ? 1 : item.progress), 0) /
      Math.max(1, batch.items.length)
  );
  const open = $derived(ended.length < batch.items.length);
  const value = (x: number | null | undefined) => (x === null || x === undefined ? "" : formatDb(x));
  const summary = $derived(
    open
      ? `${ended.length} of ${batch.items.length}`
      : `${done} done${failed > 0 ? `, ${failed} failed` : ""}${done + failed < batch.items.length ? `, ${batch.items.length - done - failed} cancelled` : ""}`
  );
</script>

<article aria-label="Batch {batch.name}">
  <header>
    <h3>{batch.name}</h3>
    <span class="soft">{day(batch.date)}</span>
    <span class="soft" role="status">{summary}</span>
    <span class="gap"></span>
    {#if open}
      <Button kind="tertiary" size="small" on:click={() => batches.cancel(batch.id)}>Cancel the rest</Button>
    {:else}
      <Button
        kind="tertiary"
        size="small"
        on:click={() => saveText(reportCsv(batch), `${batch.name}.csv`, "text/csv")}>Report as CSV</Button
      >
    {/if}
  </header>
  {#if open}<ProgressBar size="sm" hideLabel labelText="Batch {batch.name}" value={share} max={1} />{/if}
  {#if batch.applied === "failed"}<p class="fault" role="alert">{batch.error}</p>{/if}
  <table>
    <caption class="visually-hidden">Loudness before and after</caption>
    <thead>
      <tr>
        <th scope="col">sound</th><th scope="col">state</th><th scope="col">LUFS</th><th scope="col">dBTP</th>
        <th scope="col">LRA LU</th>
      </tr>
    </thead>
    <tbody>
      {#each batch.items as item (item.jobId)}
        <tr>
          <th scope="row" title={item.name}>{item.name}</th>
          <td class:bad={item.state === "failed"}
            >{item.state === "running" ? `${Math.round(item.progress * 100)} %` : stateText(item)}</td
          >
          {#if item.before && item.after}
            <td class="number">{value(item.before.integratedLufs)} → {value(item.after.integratedLufs)}</td>
            <td class="number">{value(item.after.truePeakDbtp)}</td>
            <td class="number">{value(item.before.loudnessRangeLu)} → {value(item.after.loudnessRangeLu)}</td>
          {:else}
            <td colspan="3" class="why">{item.error ?? ""}</td>
          {/if}
        </tr>
      {/each}
    </tbody>
  </table>
</article>

<style>
  header {
    display: flex;
    align-items: center;
    gap: 8px;
    font-size: 12px;
  }

  h3 {
    margin: 0;
    overflow: hidden;
    font-size: 13px;
    font-weight: 600;
    text-overflow: ellipsis;
    white-space: nowrap;
  }

  .gap {
    flex: 1;
  }

  table {
    width: 100%;
    border-collapse: collapse;
    font-size: 12px;
    table-layout: fixed;
  }

  th,
  td {
    height: 24px;
    padding: 0 6px 0 0;
    overflow: hidden;
    border-bottom: 1px solid var(--w-rule);
    text-align: left;
    text-overflow: ellipsis;
    white-space: nowrap;
  }

  thead th {
    color: var(--w-soft);
    font-weight: 400;
  }

  thead th:nth-child(2) {
    width: 66px;
  }

  thead th:nth-child(n + 3) {
    width: 104px;
  }

  tbody th {
    font-weight: 500;
  }

  .why {
    white-space: normal;
  }

  .bad,
  .fault {
    color: var(--w-madder);
    font-weight: 600;
  }

  .fault {
    margin: 0;
  }
</style>
