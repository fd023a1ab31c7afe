<!-- Opens a project archive or a bundle of OpenTimelineIO: sent, unpacked, and then shown. -->
<script lang="ts">
  import { Button, ProgressBar } from "carbon-components-svelte";
  import FolderOpen from "carbon-icons-svelte/lib/FolderOpen.svelte";
  import { Upload, type DetailedError } from "tus-js-client";
  import { goto } from "$app/navigation";
  import type { JobView } from "$lib/api/jobs";
  import { api } from "../shared/api";
  import { notices } from "../shared/notices.svelte";

  const CHUNK_BYTES = 16 << 20;
  const ASK_MS = 300;
  let picker: HTMLInputElement | undefined = $state();
  /** Share that is done, 0 to 1; null: nothing is under way. */
  let progress = $state<number | null>(null);
  let name = $state("");

  function sent(file: File): Promise<string> {
    return new Promise((resolve, reject) => {
      let job = "";
      new Upload(file, {
        endpoint: "/api/uploads",
        chunkSize: CHUNK_BYTES,
        storeFingerprintForResuming: false,
        metadata: { filename: file.name, archive: "1" },
        onProgress: (done, all) => (progress = all > 0 ? (done / all) * 0.5 : 0),
        onAfterResponse: (_request, response) => {
          job = response.getHeader("X-Job") ?? job;
        },
        onSuccess: () => resolve(job),
        onError: (error) => {
          const sentence = (error as DetailedError).originalResponse?.getBody();
          reject(
            new Error(sentence ? sentence : `"${file.name}" was not opened: the upload was interrupted.`)
          );
        }
      }).start();
    });
  }

  /** The project that it became; what it could not carry is told. */
  async function unpacked(id: string): Promise<string> {
    for (;;) {
      const job = await api.get<JobView>(`/api/jobs/${id}`);
      progress = 0.5 + job.progress / 2;
      if (job.state === "done") {
        const { projectId, missing } = job.result as { projectId: string; missing: readonly string[] };
        for (const one of missing) notices.fault(`Left out: ${one}.`);
        return projectId;
      }
      if (job.endedAt !== null) throw new Error(job.error ?? "The archive was not opened.");
      await new Promise((resolve) => setTimeout(resolve, ASK_MS));
    }
  }

  async function open(file: File): Promise<void> {
    name = file.name;
    progress = 0;
    try {
      await goto(`/projects/${await unpacked(await sent(file))}`);
    } catch (error) {
      notices.fault(error);
    }
    progress = null;
  }
</script>

<div class="row">
  <span class="soft">Or take up a project from elsewhere:</span>
  {#if progress === null}
    <Button kind="tertiary" size="small" icon={FolderOpen} on:click={() => picker?.click()}
      >Open a project archive or a timeline…</Button
    >
  {:else}
    <span class="bar"><ProgressBar size="sm" labelText="Opening {name}" value={progress} max={1} /></span>
  {/if}
  <input
    bind:this={picker}
    class="visually-hidden"
    type="file"
    accept=".zip,.otioz,application/zip"
    tabindex="-1"
    aria-label="Project archive or timeline to open"
    onchange={(event) => {
      const [file] = event.currentTarget.files ?? [];
      event.currentTarget.value = "";
      if (file) open(file).catch((error: unknown) => notices.fault(error));
    }}
  />
</div>

<style>
  .row {
    display: flex;
    align-items: center;
    gap: 12px;
    margin-top: 12px;
    font-size: 13px;
  }

  .bar {
    width: 320px;
  }
</style>
