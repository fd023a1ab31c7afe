<!-- The only page while the database cannot be read. -->
<script lang="ts">
  import { Button, DataTable } from "carbon-components-svelte";
  import { api } from "$lib/ui/shared/api";
  import { notices } from "$lib/ui/shared/notices.svelte";
  import Notices from "$lib/ui/shared/Notices.svelte";
  import type { PageProps } from "./$types";

  let { data }: PageProps = $props();
  let busy = $state(false);
  const when = new Intl.DateTimeFormat("en-GB", { dateStyle: "full", timeStyle: "short" });

  async function restore(name: string): Promise<void> {
    busy = true;
    try {
      await api.post("/api/backups", { name });
      location.assign("/");
    } catch (error) {
      notices.fault(error);
      busy = false;
    }
  }
</script>

<svelte:head><title>The database is damaged · Wring</title></svelte:head>

<main class="page">
  <h1>The database is damaged</h1>
  <p>{data.sentence} It holds projects, their history and presets.</p>
  <p>
    Your recordings are files of their own and are not touched by this. Choose a backup: it takes the
    database's place, and the damaged one is kept beside it under another name.
  </p>
  {#if data.backups.length === 0}
    <p class="none">
      There is no backup yet. The file <code>wring.sqlite</code> in the data folder can be moved away: Wring then
      begins with an empty list of projects, and keeps all recordings.
    </p>
  {:else}
    <DataTable
      size="short"
      headers={[
        { key: "madeAt", value: "Made" },
        { key: "bytes", value: "Size" },
        { key: "use", value: "Use it" }
      ]}
      rows={data.backups.map((backup, i) => ({ ...backup, id: backup.name, newest: i === 0, use: "" }))}
    >
      <svelte:fragment slot="cell" let:row let:cell>
        {#if cell.key === "madeAt"}{when.format(new Date(row.madeAt))}
        {:else if cell.key === "bytes"}<span class="number">{(row.bytes / 1e6).toFixed(1)} MB</span>
        {:else}
          <Button
            size="small"
            kind={row.newest ? "primary" : "tertiary"}
            disabled={busy}
            on:click={() => restore(row.name)}>Use this backup</Button
          >
        {/if}
      </svelte:fragment>
    </DataTable>
  {/if}
</main>
<Notices />

<style>
  .page {
    max-width: 720px;
    margin: 0 auto;
    padding: 60px 24px;
    font-size: 14px;
  }

  h1 {
    margin: 0 0 12px;
    color: var(--w-madder);
    font-size: 26px;
    font-weight: 600;
  }

  p {
    margin: 0 0 10px;
  }

  .none {
    padding: 16px;
    border: 1px dashed var(--w-soft);
  }
</style>
