<script lang="ts">
  import { DataTable, InlineNotification, Modal } from "carbon-components-svelte";
  import { invalidateAll } from "$app/navigation";
  import type { ProjectSummary } from "$lib/api/types";
  import NewProject from "$lib/ui/home/NewProject.svelte";
  import OpenArchive from "$lib/ui/home/OpenArchive.svelte";
  import ProjectBin from "$lib/ui/home/ProjectBin.svelte";
  import ProjectTable from "$lib/ui/home/ProjectTable.svelte";
  import { api } from "$lib/ui/shared/api";
  import LookButton from "$lib/ui/shared/LookButton.svelte";
  import { notices } from "$lib/ui/shared/notices.svelte";
  import Notices from "$lib/ui/shared/Notices.svelte";
  import type { PageProps } from "./$types";

  let { data }: PageProps = $props();
  let leaving = $state<ProjectSummary | null>(null);
  const readable = $derived(data.projects.filter((p) => p.deletedAt === null && p.fault === null));
  const unreadable = $derived(data.projects.filter((p) => p.deletedAt === null && p.fault !== null));
  const bin = $derived(data.projects.filter((p) => p.deletedAt !== null));

  async function remove(): Promise<void> {
    const project = leaving;
    leaving = null;
    if (project) await change(() => api.remove(`/api/projects/${project.id}`));
  }

  async function change(work: () => Promise<unknown>): Promise<void> {
    try {
      await work();
      await invalidateAll();
    } catch (error) {
      notices.fault(error);
    }
  }
</script>

<svelte:head><title>Wring · projects</title></svelte:head>

<div class="page">
  <header>
    <h1>Wring</h1>
    <p class="soft">Treat, compare, render, restore and deliver sound at a measured loudness.</p>
    <span class="look"><LookButton /></span>
  </header>
  <main>
    {#each data.lost as { id, name, changes } (id)}
      <InlineNotification
        lowContrast
        hideCloseButton
        kind="warning"
        title="Changes are missing:"
        subtitle={`"${name}" came back without its last ${changes} change${changes === 1 ? "" : "s"}: they were saved, but the disk did not keep them. What is shown is the newest state that is whole.`}
      />
    {/each}
    <section aria-label="New project" class="card"><NewProject /><OpenArchive /></section>
    <section aria-labelledby="projects-heading">
      <h2 id="projects-heading">Projects</h2>
      {#if readable.length === 0}
        <p class="empty">
          There is no project yet. Give one a name above; then drop recordings onto it and pull them to a
          track.
        </p>
      {:else}
        <ProjectTable projects={readable} remove={(project) => (leaving = project)} />
      {/if}
    </section>
    {#if unreadable.length > 0}
      <section aria-labelledby="unreadable-heading">
        <h2 id="unreadable-heading">Cannot be opened</h2>
        <DataTable
          size="short"
          headers={[
            { key: "name", value: "Name" },
            { key: "fault", value: "Why" }
          ]}
          rows={unreadable}
        />
      </section>
    {/if}
    {#if bin.length > 0}
      <section aria-labelledby="bin-heading">
        <h2 id="bin-heading">Bin</h2>
        <p class="soft">Deleted projects stay here for 30 days, with their history.</p>
        <ProjectBin
          projects={bin}
          restore={({ id }) => change(() => api.post(`/api/projects/${id}/restore`))}
          destroy={({ id }) => change(() => api.remove(`/api/bin/${id}`))}
        />
      </section>
    {/if}
    <p class="foot"><a href="/space">What takes how much room</a></p>
  </main>
</div>

<Modal
  size="xs"
  danger
  open={leaving !== null}
  modalHeading="Delete {leaving?.name ?? 'the project'}?"
  primaryButtonText="Delete"
  secondaryButtonText="Keep"
  on:submit={remove}
  on:close={() => (leaving = null)}
  on:click:button--secondary={() => (leaving = null)}
>
  <p>The project and its history go into the bin and stay there for 30 days.</p>
</Modal>
<Notices />

<style>
  .page {
    max-width: 940px;
    margin: 0 auto;
    padding: 40px 24px 80px;
  }

  header {
    position: relative;
    margin-bottom: 28px;
  }

  h1 {
    margin: 0 0 4px;
    font-size: 34px;
    font-weight: 600;
    letter-spacing: -0.5px;
  }

  header p {
    margin: 0;
    font-size: 15px;
  }

  .look {
    position: absolute;
    right: 0;
    top: 6px;
  }

  h2 {
    margin: 32px 0 8px;
    font-size: 16px;
    font-weight: 600;
  }

  .card {
    padding: 18px 20px;
    background: var(--w-panel);
    border: 1px solid var(--w-rule);
  }

  .empty {
    padding: 28px 20px;
    border: 1px dashed var(--w-soft);
    font-size: 14px;
  }

  section > p.soft {
    margin: 0 0 8px;
    font-size: 14px;
  }

  .foot {
    margin-top: 28px;
    font-size: 13px;
  }

  .foot a {
    color: var(--w-ink);
  }
</style>
