<!-- Deleted projects, and what can be done with them. -->
<script lang="ts">
  import { Button, DataTable } from "carbon-components-svelte";
  import type { ProjectSummary } from "$lib/api/types";
  import { day } from "../shared/day";

  interface Props {
    projects: readonly ProjectSummary[];
    restore: (project: ProjectSummary) => void;
    destroy: (project: ProjectSummary) => void;
  }

  let { projects, restore, destroy }: Props = $props();
</script>

<DataTable
  size="short"
  headers={[
    { key: "name", value: "Name" },
    { key: "deletedAt", value: "Deleted", width: "180px" },
    { key: "what", value: "What can be done" }
  ]}
  rows={projects.map((project) => ({ ...project, what: "" }))}
>
  <svelte:fragment slot="cell" let:row let:cell>
    {#if cell.key === "name"}<strong>{row.name}</strong>
    {:else if cell.key === "deletedAt"}{day(row.deletedAt ?? "")}
    {:else}
      <div class="buttons">
        <Button size="small" kind="ghost" on:click={() => restore(row)}>Restore {row.name}</Button>
        <Button size="small" kind="danger-ghost" on:click={() => destroy(row)}
          >Delete {row.name} for good</Button
        >
      </div>
    {/if}
  </svelte:fragment>
</DataTable>

<style>
  .buttons {
    display: flex;
    justify-content: flex-end;
    gap: 4px;
  }
</style>
