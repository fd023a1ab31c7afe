<!-- The only page while the database cannot be read. -->
<script lang="ts">
  import { Button } from "carbon-components-svelte";
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

<div class="page">
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
    <ul>
      {#each data.backups as backup, i (backup.name)}
        <li>
          <span>{when.format(new Date(backup.madeAt))}</span>
          <span class="number soft">{(backup.bytes / 1e6).toFixed(1)} MB</span>
          <Button
            size="small"
            kind={i === 0 ? "primary" : "tertiary"}
            disabled={busy}
            on:click={() => restore(backup.name)}>Use this backup</Button
          >
        </li>
      {/each}
    </ul>
  {/if}
</div>
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

  ul {
    margin: 20px 0;
    padding: 0;
    border: 1px solid var(--w-rule);
    background: var(--w-panel);
    list-style: none;
  }

  li {
    display: grid;
    grid-template-columns: 1fr auto auto;
    align-items: center;
    gap: 16px;
    padding: 6px 14px;
    border-bottom: 1px solid var(--w-rule);
  }

  .none {
    padding: 16px;
    border: 1px dashed var(--w-soft);
  }
</style>
