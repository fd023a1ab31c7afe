<!-- The projects that can be opened, by any of their columns. -->
<script lang="ts">
  import { Button, DataTable } from "carbon-components-svelte";
  import TrashCan from "carbon-icons-svelte/lib/TrashCan.svelte";
  import type { ProjectSummary } from "$lib/api/types";
  import { formatTime } from "$lib/core/units/time";
  import { day } from "../shared/day";

  interface Props {
    projects: readonly ProjectSummary[];
    /** Asks whether a project is to go. */
    remove: (project: ProjectSummary) => void;
  }

  let { projects, remove }: Props = $props();
</script>

<DataTable
  sortable
  size="short"
  headers={[
    { key: "name", value: "Name" },
    { key: "lengthSeconds", value: "Length", width: "90px" },
    { key: "tracks", value: "Tracks", width: "90px" },
    { key: "sampleRate", value: "Rate", width: "100px" },
    { key: "changedAt", value: "Last change", width: "180px" },
    { key: "remove", value: "Delete", sort: false, width: "80px" }
  ]}
  rows={projects.map((project) => ({ ...project, remove: "" }))}
>
  <svelte:fragment slot="cell" let:row let:cell>
    {#if cell.key === "name"}<a href="/projects/{row.id}">{row.name}</a>
    {:else if cell.key === "lengthSeconds"}<span class="number">{formatTime(row.lengthSeconds, 0)}</span>
    {:else if cell.key === "tracks"}<span class="number">{row.tracks}</span>
    {:else if cell.key === "sampleRate"}<span class="number">{row.sampleRate / 1000} kHz</span>
    {:else if cell.key === "changedAt"}{day(row.changedAt)}
    {:else}
      <Button
        kind="ghost"
        size="small"
        icon={TrashCan}
        iconDescription="Delete {row.name}…"
        on:click={() => remove(row)}
      />
    {/if}
  </svelte:fragment>
</DataTable>

<style>
  a {
    color: var(--w-ink);
    font-weight: 600;
    text-decoration-color: var(--w-rule);
    text-underline-offset: 3px;
  }
</style>
