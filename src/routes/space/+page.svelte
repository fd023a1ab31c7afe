<script lang="ts">
  import { Button } from "carbon-components-svelte";
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

<div class="page">
  <p><a href="/">Projects</a></p>
  <h1>What takes how much room</h1>
  <p class="soft">
    {size(data.space.total)} in all{data.space.limit === null
      ? "; there is no limit but the disk."
      : ` of ${size(data.space.limit)} that Wring may take.`}
  </p>
  <table>
    <thead>
      <tr>
        <th scope="col">What</th>
        <th scope="col" class="right">Size</th>
        <th scope="col"><span class="visually-hidden">Share</span></th>
        <th scope="col">What it is, and when it goes</th>
      </tr>
    </thead>
    <tbody>
      {#each data.space.parts as part (part.id)}
        <tr>
          <th scope="row">{names[part.id] ?? part.id}</th>
          <td class="number right">{size(part.bytes)}</td>
          <td class="bar"><span style:width="{(part.bytes / most) * 100}%"></span></td>
          <td class="soft">{part.rule}</td>
        </tr>
      {/each}
    </tbody>
  </table>
  <p>
    <Button size="small" kind="tertiary" disabled={unused === 0} on:click={free}
      >Remove recordings not in use now</Button
    >
  </p>
</div>
<Notices />

<style>
  .page {
    max-width: 940px;
    margin: 0 auto;
    padding: 40px 24px 80px;
  }

  .page a {
    color: var(--w-ink);
  }

  h1 {
    margin: 8px 0 4px;
    font-size: 26px;
    font-weight: 600;
  }

  table {
    width: 100%;
    margin: 18px 0;
    border: 1px solid var(--w-rule);
    border-collapse: collapse;
    background: var(--w-panel);
    font-size: 13px;
  }

  th,
  td {
    padding: 8px 12px;
    border-bottom: 1px solid var(--w-rule);
    font-weight: 400;
    text-align: left;
  }

  tbody th {
    font-weight: 600;
    white-space: nowrap;
  }

  .right {
    text-align: right;
    white-space: nowrap;
  }

  .bar {
    width: 160px;
  }

  .bar span {
    display: block;
    height: 10px;
    background: var(--w-slate);
  }
</style>
