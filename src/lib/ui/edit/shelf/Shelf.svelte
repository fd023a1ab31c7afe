<script lang="ts">
  import Add from "carbon-icons-svelte/lib/Add.svelte";
  import Close from "carbon-icons-svelte/lib/Close.svelte";
  import Flow from "carbon-icons-svelte/lib/Flow.svelte";
  import DocumentImport from "carbon-icons-svelte/lib/DocumentImport.svelte";
  import TrashCan from "carbon-icons-svelte/lib/TrashCan.svelte";
  import type { Recording } from "$lib/core/session/schema";
  import { formatTime } from "$lib/core/units/time";
  import { recordingsByName } from "$lib/core/session/lookup";
  import { addClip, applyPreset } from "../../state/editing";
  import { useEditor } from "../../state/editor.svelte";

  const editor = useEditor();
  const { session, jobs, presets, selection } = editor;
  let tab = $state<"recordings" | "presets">("recordings");
  let picker: HTMLInputElement | undefined = $state();

  function channels(recording: Recording): string {
    return recording.channels === 1
      ? "mono"
      : recording.channels === 2
        ? "stereo"
        : `${recording.channels} ch`;
  }
</script>

<aside class="shelf" aria-label="Shelf">
  <div class="tabs">
    <div class="tablist" role="tablist" aria-label="Shelf">
      <button role="tab" aria-selected={tab === "recordings"} onclick={() => (tab = "recordings")}
        >Recordings</button
      >
      <button role="tab" aria-selected={tab === "presets"} onclick={() => (tab = "presets")}>Presets</button>
    </div>
    <button
      class="plain bare close"
      aria-label="Hide the shelf"
      title="Hide the shelf (S)"
      onclick={() => (editor.shelfOpen = false)}><Close size={16} /></button
    >
  </div>
  {#if tab === "recordings"}
    <div class="list" role="tabpanel" aria-label="Recordings">
      <button class="plain wide" onclick={() => picker?.click()}
        ><DocumentImport size={16} />Import WAV files…</button
      >
      <input
        bind:this={picker}
        class="visually-hidden"
        type="file"
        accept=".wav,audio/wav,audio/x-wav"
        multiple
        tabindex="-1"
        aria-label="WAV files to import"
        onchange={(event) => {
          if (event.currentTarget.files) jobs.importFiles(event.currentTarget.files);
          event.currentTarget.value = "";
        }}
      />
      {#each recordingsByName(session.shown) as recording (recording.id)}
        {@const broken = session.broken.get(recording.id)}
        <div
          class="item"
          role="group"
          aria-label={recording.name}
          draggable="true"
          title={recording.provenance ? `Made from ${recording.provenance.text}` : "Pull it to a track"}
          ondragstart={(event) => event.dataTransfer?.setData("application/x-wring-recording", recording.id)}
        >
          <span class="text">
            <span class="name">{recording.name}</span>
            <span class="soft number"
              >{formatTime(recording.frames / editor.sampleRate, 1)}
              {channels(recording)}
              {recording.sampleRate / 1000}k{recording.kind === "render" ? " render" : ""}</span
            >
            {#if broken}<span class="broken"
                >{broken === "missing"
                  ? "its file is missing: import it again"
                  : "its file is damaged: import it again"}</span
              >{/if}
          </span>
          <button
            class="plain bare remove"
            class:chained={recording.chain !== null}
            aria-label="Treat {recording.name} for all its clips"
            title={recording.chain === null
              ? "Treat it for all clips that show it"
              : "It has a chain, heard by all clips that show it"}
            aria-pressed={selection.isSubject({ table: "recordings", id: recording.id })}
            onclick={() => selection.chooseOwner({ table: "recordings", id: recording.id })}
            ><Flow size={16} /></button
          >
          <button
            class="plain"
            aria-label="Add {recording.name} at the playhead"
            title="Add at the playhead"
            onclick={() => addClip(editor, recording)}><Add size={16} /></button
          >
          <button
            class="plain bare remove"
            aria-label="Take {recording.name} off the shelf"
            title="Take off the shelf"
            onclick={() => session.run({ type: "recording.remove", recordingId: recording.id })}
            ><TrashCan size={16} /></button
          >
        </div>
      {:else}
        <p class="empty">No recordings yet. Drop WAV files anywhere on this window, or import them here.</p>
      {/each}
    </div>
  {:else}
    <div class="list" role="tabpanel" aria-label="Presets">
      <p class="soft hint">
        Applies to what is on the bench: {selection.subject.name}.
      </p>
      {#each presets.list as preset (preset.id)}
        <div class="item" role="group" aria-label={preset.name}>
          <span class="text" title={preset.notes}>
            <span class="name">{preset.name}</span>
            <span class="soft">{preset.steps.length} step{preset.steps.length === 1 ? "" : "s"}</span>
          </span>
          <button
            class="plain"
            aria-label="Apply preset {preset.name}"
            onclick={() => applyPreset(editor, preset)}>Apply</button
          >
          <button
            class="plain bare remove"
            aria-label="Delete preset {preset.name}"
            onclick={() => presets.remove(preset.id)}><TrashCan size={16} /></button
          >
        </div>
      {:else}
        <p class="empty">No presets yet. Build a chain on a clip, then save it from the bench.</p>
      {/each}
    </div>
  {/if}
</aside>

<style>
  .shelf {
    display: flex;
    flex-direction: column;
    min-height: 0;
    border-right: 1px solid var(--w-rule);
    background: var(--w-panel);
  }

  .tabs {
    display: flex;
    height: 44px;
    flex: none;
    align-items: stretch;
    border-bottom: 1px solid var(--w-rule);
  }

  .tablist {
    display: flex;
  }

  .tabs [role="tab"] {
    padding: 0 10px;
    border: 0;
    border-bottom: 3px solid transparent;
    background: transparent;
    color: var(--w-soft);
    font-size: 13px;
    cursor: pointer;
  }

  .tabs [aria-selected="true"] {
    border-bottom-color: var(--w-slate);
    color: var(--w-ink);
    font-weight: 600;
  }

  .close {
    margin-left: auto;
    align-self: center;
  }

  .list {
    display: flex;
    flex-direction: column;
    gap: 2px;
    padding: 8px;
    overflow-y: auto;
  }

  .wide {
    margin-bottom: 6px;
    flex: none;
  }

  .item {
    display: flex;
    align-items: center;
    gap: 2px;
    padding: 4px 2px 4px 6px;
    border-bottom: 1px solid var(--w-rule);
    cursor: grab;
  }

  .text {
    display: grid;
    flex: 1;
    min-width: 0;
    font-size: 11px;
  }

  .name {
    overflow: hidden;
    font-size: 13px;
    text-overflow: ellipsis;
    white-space: nowrap;
  }

  .broken {
    color: var(--w-madder);
    font-weight: 600;
  }

  .item .plain {
    padding: 2px 5px;
  }

  .remove {
    opacity: 0;
  }

  .item:hover .remove,
  .remove.chained,
  .remove[aria-pressed="true"],
  .remove:focus-visible {
    opacity: 1;
  }

  .empty {
    margin: 8px 0;
    padding: 14px;
    border: 1px dashed var(--w-soft);
  }

  .hint {
    margin: 0 4px 4px;
  }
</style>
