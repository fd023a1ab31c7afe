<script lang="ts">
  import { Breadcrumb, BreadcrumbItem, Button, DataTable } from "carbon-components-svelte";
  import { invalidateAll } from "$app/navigation";
  import { api } from "$lib/ui/shared/api";
  import { notices } from "$lib/ui/shared/notices.svelte";
  import Notices from "$lib/ui/shared/Notices.svelte";
  import type { PageProps } from "./$types";

  let { data }: PageProps = $props();
  const names: Record<string, string> = {
    used: "Recordings in use",
    unused: "Recordings not in use",
    caches: "Working copies",
    exports: "Exports",
    heard: "What was heard and learnt",
    uploads: "Uploads",
    scratch: "Work under way",
    database: "Projects",
    backups: "Backups"
  };
  const most = $derived(Math.max(1, ...data.space.parts.map((part) => part.bytes)));
  const unused = $derived(data.space.parts.find((part) => part.id === "unused")?.bytes ?? 0);
  const size = (bytes: number) =>
    bytes >= 1e9 ? `${(bytes / 1e9).toFixed(2)} GB` : `${(bytes / 1e6).toFixed(1)} MB`;

  async function free(): Promise<void> {
    try {
      const { bytes } = await api.remove<{ bytes: number }>("/api/space");
      notices.news(`${size(bytes)} are free again.`);
      await invalidateAll();
    } catch (error) {
      notices.fault(error);
    }
  }
</script>

<svelte:head><title>Room · Wring</title></svelte:head>

<main class="page">
  <Breadcrumb noTrailingSlash>
    <BreadcrumbItem href="/">Projects</BreadcrumbItem>
    <BreadcrumbItem isCurrentPage>Room</BreadcrumbItem>
  </Breadcrumb>
  <h1>What takes how much room</h1>
  <p class="soft">
    {size(data.space.total)} in all{data.space.limit === null
      ? "; there is no limit but the disk."
      : ` of ${size(data.space.limit)} that Wring may take.`}
  </p>
  <DataTable
    size="short"
    headers={[
      { key: "name", value: "What", width: "220px" },
      { key: "bytes", value: "Size", width: "100px" },
      { key: "share", value: "Share", sort: false, width: "170px" },
      { key: "rule", value: "What it is, and when it goes" }
    ]}
    rows={data.space.parts.map((part) => ({
      ...part,
      name: names[part.id] ?? part.id,
      share: part.bytes / most
    }))}
  >
    <svelte:fragment slot="cell" let:row let:cell>
      {#if cell.key === "bytes"}<span class="number size">{size(row.bytes)}</span>
      {:else if cell.key === "share"}<span class="bar" style:width="{row.share * 154}px"></span>
      {:else if cell.key === "name"}<strong>{row.name}</strong>
      {:else}{cell.value}{/if}
    </svelte:fragment>
  </DataTable>
  <p>
    <Button size="small" kind="tertiary" disabled={unused === 0} on:click={free}
      >Remove recordings not in use now</Button
    >
  </p>
</main>
<Notices />

<style>
  .page {
    max-width: 940px;
    margin: 0 auto;
    padding: 40px 24px 80px;
  }

  h1 {
    margin: 8px 0 4px;
    font-size: 26px;
    font-weight: 600;
  }

  .page :global(.bx--data-table-container) {
    margin: 18px 0;
  }

  .size {
    white-space: nowrap;
  }

  .bar {
    display: block;
    height: 10px;
    background: var(--w-slate);
  }
</style>
