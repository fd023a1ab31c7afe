<script lang="ts">
  import { Modal } from "carbon-components-svelte";
  import TrashCan from "carbon-icons-svelte/lib/TrashCan.svelte";
  import { invalidateAll } from "$app/navigation";
  import { formatTime } from "$lib/core/units/time";
  import type { ProjectSummary } from "$lib/api/types";
  import NewProject from "$lib/ui/home/NewProject.svelte";
  import { api } from "$lib/ui/shared/api";
  import LookButton from "$lib/ui/shared/LookButton.svelte";
  import { notices } from "$lib/ui/shared/notices.svelte";
  import Notices from "$lib/ui/shared/Notices.svelte";
  import type { PageProps } from "./$types";

  let { data }: PageProps = $props();
  let leaving = $state<ProjectSummary | null>(null);
  const when = new Intl.DateTimeFormat("en-GB", { dateStyle: "medium", timeStyle: "short" });

  async function remove(): Promise<void> {
    const project = leaving;
    leaving = null;
    if (!project) return;
    try {
      await api.remove(`/api/projects/${project.id}`);
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
    <section aria-label="New project" class="card"><NewProject /></section>
    <section aria-labelledby="projects-heading">
      <h2 id="projects-heading">Projects</h2>
      {#if data.projects.length === 0}
        <p class="empty">
          There is no project yet. Give one a name above; then drop recordings onto it and pull them to a
          track.
        </p>
      {:else}
        <table>
          <thead>
            <tr>
              <th scope="col">Name</th>
              <th scope="col" class="right">Length</th>
              <th scope="col" class="right">Tracks</th>
              <th scope="col" class="right">Rate</th>
              <th scope="col">Last change</th>
              <th scope="col"><span class="visually-hidden">Delete</span></th>
            </tr>
          </thead>
          <tbody>
            {#each data.projects as project (project.id)}
              <tr>
                <td class="name"><a href="/projects/{project.id}">{project.name}</a></td>
                <td class="number right">{formatTime(project.lengthSeconds, 0)}</td>
                <td class="number right">{project.tracks}</td>
                <td class="number right">{project.sampleRate / 1000} kHz</td>
                <td>{when.format(new Date(project.changedAt))}</td>
                <td class="right">
                  <button
                    class="plain bare"
                    aria-label="Delete {project.name}…"
                    onclick={() => (leaving = project)}
                  >
                    <TrashCan size={16} />
                  </button>
                </td>
              </tr>
            {/each}
          </tbody>
        </table>
      {/if}
    </section>
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
  <p>The project and its history are deleted. The recordings stay in the data folder as WAV files.</p>
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

  table {
    width: 100%;
    border-collapse: collapse;
    background: var(--w-panel);
    border: 1px solid var(--w-rule);
    font-size: 14px;
  }

  th,
  td {
    padding: 9px 14px;
    border-bottom: 1px solid var(--w-rule);
    text-align: left;
  }

  th {
    font-size: 12px;
    font-weight: 500;
    color: var(--w-soft);
  }

  tbody tr:hover {
    background: var(--w-sunk);
  }

  .right {
    text-align: right;
  }

  .name a {
    color: var(--w-ink);
    font-weight: 600;
    text-decoration-color: var(--w-rule);
    text-underline-offset: 3px;
  }
</style>
