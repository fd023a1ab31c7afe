<!-- A recording on the shelf. -->
<script lang="ts">
  import Add from "carbon-icons-svelte/lib/Add.svelte";
  import Flow from "carbon-icons-svelte/lib/Flow.svelte";
  import Information from "carbon-icons-svelte/lib/Information.svelte";
  import Play from "carbon-icons-svelte/lib/PlayFilledAlt.svelte";
  import Stop from "carbon-icons-svelte/lib/StopFilledAlt.svelte";
  import TrashCan from "carbon-icons-svelte/lib/TrashCan.svelte";
  import type { Recording } from "$lib/core/session/schema";
  import { formatDb } from "$lib/core/units/decibels";
  import { formatTime } from "$lib/core/units/time";
  import { addClip } from "../../state/editing";
  import { useEditor } from "../../state/editor.svelte";
  import type { Listen } from "./listen.svelte";
  import Thumb from "./Thumb.svelte";

  interface Props {
    recording: Recording;
    /** Clips that show it. */
    clips: number;
    listen: Listen;
  }

  let { recording, clips, listen }: Props = $props();
  const editor = useEditor();
  const { session, selection } = editor;
  const broken = $derived(session.broken.get(recording.id));
  const owner = $derived({ table: "recordings" as const, id: recording.id });
  const playing = $derived(listen.id === recording.id);
  const channels = $derived(
    recording.channels === 1 ? "mono" : recording.channels === 2 ? "stereo" : `${recording.channels} ch`
  );
  const loudness = $derived(recording.about?.loudness ?? null);
  const marks = $derived([
    ...(recording.kind === "render" ? ["render"] : []),
    ...(recording.about?.video ? ["video"] : []),
    ...(recording.labels ?? [])
  ]);
</script>

<div
  class="item"
  role="group"
  aria-label={recording.name}
  draggable="true"
  title={recording.provenance ? `Made from ${recording.provenance.text}` : "Pull it to a track"}
  ondragstart={(event) => event.dataTransfer?.setData("application/x-wring-recording", recording.id)}
  oncontextmenu={(event) => editor.offer(event, "recording", recording.name, owner)}
>
  <div class="line">
    <button
      class="bx--btn bx--btn--ghost bx--btn--sm bx--btn--icon-only"
      aria-label={playing ? `Stop ${recording.name}` : `Play ${recording.name}`}
      title={playing ? "Stop" : "Listen to it, without adding it"}
      onclick={() => listen.toggle(recording.id)}
      >{#if playing}<Stop size={16} />{:else}<Play size={16} />{/if}</button
    >
    <span class="name">{recording.name}</span>
    <button
      class="bx--btn bx--btn--ghost bx--btn--sm bx--btn--icon-only quiet"
      aria-label="About {recording.name}"
      title="What it is, its clips, and what its file says"
      onclick={() => editor.askAbout(recording, "recordingAbout")}><Information size={16} /></button
    >
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
      class="bx--btn bx--btn--ghost bx--btn--sm bx--btn--icon-only quiet"
      aria-label="Take {recording.name} off the shelf"
      title="Take off the shelf"
      onclick={() => session.run({ type: "recording.remove", recordingId: recording.id })}
      ><TrashCan size={16} /></button
    >
    <button
      class="bx--btn bx--btn--tertiary bx--btn--sm bx--btn--icon-only"
      aria-label="Add {recording.name} at the playhead"
      title="Add at the playhead"
      onclick={() => addClip(editor, recording)}><Add size={16} /></button
    >
  </div>
  <Thumb {recording} sampleRate={editor.sampleRate} heard={playing ? listen.share : null} />
  <span class="soft number facts"
    >{formatTime(recording.frames / editor.sampleRate, 1)}
    {channels}
    {recording.sampleRate / 1000}k{loudness === null ? "" : ` ${formatDb(loudness)} LUFS`}{clips > 0
      ? ` · ${clips} clip${clips === 1 ? "" : "s"}`
      : ""}</span
  >
  {#if marks.length > 0}<span class="soft facts">{marks.join(" · ")}</span>{/if}
  {#if recording.about?.note}<span class="soft facts note" title={recording.about.note}
      >{recording.about.note}</span
    >{/if}
  {#if broken}<span class="broken"
      >{broken === "missing"
        ? "its file is missing: import it again"
        : "its file is damaged: import it again"}</span
    >{/if}
</div>

<style>
  .item {
    display: grid;
    grid-template-columns: minmax(0, 1fr);
    min-width: 0;
    gap: 1px;
    padding: 3px 2px 5px;
    border-bottom: 1px solid var(--w-rule);
    cursor: grab;
    /* Of a long shelf only what is seen is laid out. */
    content-visibility: auto;
    contain-intrinsic-size: auto 76px;
  }

  .line {
    display: flex;
    align-items: center;
    gap: 1px;
  }

  .line :global(button) {
    flex: none;
  }

  .name {
    flex: 1;
    min-width: 0;
    overflow: hidden;
    font-size: 13px;
    text-overflow: ellipsis;
    white-space: nowrap;
  }

  .facts {
    padding-left: 4px;
    font-size: 11px;
  }

  .note {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }

  .broken {
    color: var(--w-madder);
    font-size: 12px;
    font-weight: 600;
  }

  .quiet {
    display: none;
  }

  .item:hover .quiet,
  .item:focus-within .quiet,
  .quiet[aria-pressed="true"] {
    display: inline-flex;
  }
</style>
