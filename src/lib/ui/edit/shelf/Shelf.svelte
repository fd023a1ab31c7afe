<script lang="ts">
  import { Button, Search, Tab, TabContent, Tabs } from "carbon-components-svelte";
  import Add from "carbon-icons-svelte/lib/Add.svelte";
  import Close from "carbon-icons-svelte/lib/Close.svelte";
  import Flow from "carbon-icons-svelte/lib/Flow.svelte";
  import TrashCan from "carbon-icons-svelte/lib/TrashCan.svelte";
  import ImportButton from "../../shared/ImportButton.svelte";
  import type { Recording } from "$lib/core/session/schema";
  import { formatTime } from "$lib/core/units/time";
  import { recordingsByName } from "$lib/core/session/lookup";
  import { addClip, applyPreset } from "../../state/editing";
  import { useEditor } from "../../state/editor.svelte";

  const editor = useEditor();
  const { session, presets, selection } = editor;
  /** Fewer recordings are seen at a glance. */
  const FEW = 8;
  let wanted = $state("");
  const shown = $derived(
    recordingsByName(session.shown).filter(({ name }) =>
      name.toLowerCase().includes(wanted.trim().toLowerCase())
    )
  );

  function channels(recording: Recording): string {
    return recording.channels === 1
      ? "mono"
      : recording.channels === 2
        ? "stereo"
        : `${recording.channels} ch`;
  }
</script>

<aside class="shelf" aria-label="Shelf">
  <div class="close">
    <Button
      kind="ghost"
      size="small"
      icon={Close}
      iconDescription="Hide the shelf"
      tooltipPosition="left"
      on:click={() => (editor.shelfOpen = false)}
    />
  </div>
  <Tabs autoWidth>
    <Tab label="Recordings" />
    <Tab label="Presets" />
    <svelte:fragment slot="content">
      <TabContent>
        <div class="list">
          <ImportButton label="Import sound files…" take={(files) => editor.importFiles(files)} />
          {#if session.shown.size("recordings") > FEW}
            <Search
              size="xs"
              labelText="Find a recording"
              placeholder="Find a recording"
              bind:value={wanted}
              on:keydown={(event) => event.stopPropagation()}
            />
          {/if}
          {#each shown as recording (recording.id)}
            {@const broken = session.broken.get(recording.id)}
            {@const owner = { table: "recordings" as const, id: recording.id }}
            <div
              class="item"
              role="group"
              aria-label={recording.name}
              draggable="true"
              title={recording.provenance ? `Made from ${recording.provenance.text}` : "Pull it to a track"}
              ondragstart={(event) =>
                event.dataTransfer?.setData("application/x-wring-recording", recording.id)}
              oncontextmenu={(event) => editor.offer(event, "recording", recording.name, owner)}
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
                class="bx--btn bx--btn--ghost bx--btn--sm bx--btn--icon-only"
                class:quiet={recording.chain === null}
                aria-label="Treat {recording.name} for all its clips"
                title={recording.chain === null
                  ? "Treat it for all clips that show it"
                  : "It has a chain, heard by all clips that show it"}
                aria-pressed={selection.isSubject(owner)}
                onclick={() => selection.chooseOwner(owner)}><Flow size={16} /></button
              >
              <button
                class="bx--btn bx--btn--tertiary bx--btn--sm bx--btn--icon-only"
                aria-label="Add {recording.name} at the playhead"
                title="Add at the playhead"
                onclick={() => addClip(editor, recording)}><Add size={16} /></button
              >
              <button
                class="bx--btn bx--btn--ghost bx--btn--sm bx--btn--icon-only quiet"
                aria-label="Take {recording.name} off the shelf"
                title="Take off the shelf"
                onclick={() => session.run({ type: "recording.remove", recordingId: recording.id })}
                ><TrashCan size={16} /></button
              >
            </div>
          {:else}
            <p class="empty">
              {#if wanted.trim() === ""}No recordings yet. Drop sound files anywhere on this window, or import
                them here.{:else}No recording has this in its name.{/if}
            </p>
          {/each}
        </div>
      </TabContent>
      <TabContent>
        <div class="list">
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
                class="bx--btn bx--btn--tertiary bx--btn--sm"
                aria-label="Apply preset {preset.name}"
                onclick={() => applyPreset(editor, preset)}>Apply</button
              >
              <button
                class="bx--btn bx--btn--ghost bx--btn--sm bx--btn--icon-only quiet"
                aria-label="Delete preset {preset.name}"
                title="Delete"
                onclick={() => presets.remove(preset.id)}><TrashCan size={16} /></button
              >
            </div>
          {:else}
            <p class="empty">No presets yet. Build a chain on a clip, then save it from the bench.</p>
          {/each}
        </div>
      </TabContent>
    </svelte:fragment>
  </Tabs>
</aside>

<style>
  .shelf {
    position: relative;
    display: flex;
    flex-direction: column;
    min-height: 0;
    border-left: 1px solid var(--w-rule);
    background: var(--w-panel);
  }

  .shelf > :global(.bx--tabs) {
    flex: none;
    padding: 8px 36px 7px 6px;
    border-bottom: 1px solid var(--w-rule);
  }

  .shelf :global(.bx--tab-content) {
    min-height: 0;
    overflow-y: auto;
  }

  .close {
    position: absolute;
    top: 8px;
    right: 6px;
    z-index: 1;
  }

  .list {
    display: flex;
    flex-direction: column;
    gap: 2px;
    padding: 8px;
  }

  .item {
    display: flex;
    align-items: center;
    gap: 2px;
    padding: 4px 2px 4px 4px;
    border-bottom: 1px solid var(--w-rule);
    cursor: grab;
  }

  .text {
    display: grid;
    flex: 1;
    min-width: 0;
    font-size: 12px;
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

  .quiet {
    opacity: 0;
  }

  .item:hover .quiet,
  .quiet[aria-pressed="true"],
  .quiet:focus-visible {
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
