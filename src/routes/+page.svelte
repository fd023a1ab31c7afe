<script lang="ts">
  import { Button, Modal } from "carbon-components-svelte";
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
  const readable = $derived(data.projects.filter((p) => p.deletedAt === null && p.fault === null));
  const unreadable = $derived(data.projects.filter((p) => p.deletedAt === null && p.fault !== null));
  const bin = $derived(data.projects.filter((p) => p.deletedAt !== null));
  const when = new Intl.DateTimeFormat("en-GB", { dateStyle: "medium", timeStyle: "short" });

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
      <p class="lost" role="alert">
        "{name}" came back without its last {changes} change{changes === 1 ? "" : "s"}: they were saved, but
        the disk did not keep them. What is shown is the newest state that is whole.
      </p>
    {/each}
    <section aria-label="New project" class="card"><NewProject /></section>
    <section aria-labelledby="projects-heading">
      <h2 id="projects-heading">Projects</h2>
      {#if readable.length === 0}
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
            {#each readable as project (project.id)}
              <tr>
                <td class="name"><a href="/projects/{project.id}">{project.name}</a></td>
                <td class="number right">{formatTime(project.lengthSeconds, 0)}</td>
                <td class="number right">{project.tracks}</td>
                <td class="number right">{project.sampleRate / 1000} kHz</td>
                <td>{when.format(new Date(project.changedAt))}</td>
                <td class="right">
                  <Button
                    kind="ghost"
                    size="small"
                    icon={TrashCan}
                    iconDescription="Delete {project.name}…"
                    on:click={() => (leaving = project)}
                  />
                </td>
              </tr>
            {/each}
          </tbody>
        </table>
      {/if}
    </section>
    {#if unreadable.length > 0}
      <section aria-labelledby="unreadable-heading">
        <h2 id="unreadable-heading">Cannot be opened</h2>
        <ul class="rows">
          {#each unreadable as project (project.id)}
            <li>
              <strong>{project.name}</strong>
              <span class="warn">{project.fault}</span>
            </li>
          {/each}
        </ul>
      </section>
    {/if}
    {#if bin.length > 0}
      <section aria-labelledby="bin-heading">
        <h2 id="bin-heading">Bin</h2>
        <p class="soft">Deleted projects stay here for 30 days, with their history.</p>
        <ul class="rows">
          {#each bin as project (project.id)}
            <li>
              <strong>{project.name}</strong>
              <span class="soft">deleted {when.format(new Date(project.deletedAt ?? 0))}</span>
              <span class="gap"></span>
              <Button
                size="small"
                kind="ghost"
                on:click={() => change(() => api.post(`/api/projects/${project.id}/restore`))}
                >Restore {project.name}</Button
              >
              <Button
                size="small"
                kind="danger-ghost"
                on:click={() => change(() => api.remove(`/api/bin/${project.id}`))}
                >Delete {project.name} for good</Button
              >
            </li>
          {/each}
        </ul>
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

  .lost {
    padding: 12px 16px;
    border: 1px solid var(--w-madder);
    background: var(--w-panel);
    font-size: 14px;
  }

  section > p.soft {
    margin: 0 0 8px;
  }

  .rows {
    margin: 0;
    padding: 0;
    border: 1px solid var(--w-rule);
    background: var(--w-panel);
    list-style: none;
    font-size: 14px;
  }

  .rows li {
    display: flex;
    align-items: center;
    gap: 12px;
    padding: 6px 14px;
    border-bottom: 1px solid var(--w-rule);
  }

  .gap {
    flex: 1;
  }

  .warn {
    color: var(--w-madder);
  }

  .foot {
    margin-top: 28px;
    font-size: 13px;
  }

  .foot a {
    color: var(--w-ink);
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
