<!-- The sounds of a batch: clips of the timeline, recordings of the shelf, files that are dropped here. -->
<script lang="ts">
  import { Button, Checkbox, Search } from "carbon-components-svelte";
  import type { NewBatch } from "$lib/api/batches";
  import { recordingsByName, tracksInOrder } from "$lib/core/session/lookup";
  import { formatTime } from "$lib/core/units/time";
  import Choice from "../shared/Choice.svelte";
  import ImportButton from "../shared/ImportButton.svelte";
  import { droppedFiles, type Given } from "../shared/givenFiles";
  import { notices } from "../shared/notices.svelte";
  import { useEditor } from "../state/editor.svelte";

  type Items = NewBatch["items"];
  type Kind = Items[number]["kind"];
  interface Sound {
    readonly id: string;
    readonly name: string;
    readonly where: string;
    readonly frames: number;
  }

  let { items = $bindable() }: { items: Items } = $props();
  const editor = useEditor();
  const { session, sampleRate } = editor;
  const KINDS = [
    { id: "clip" as const, name: "Clips", title: "Clips of the timeline" },
    { id: "recording" as const, name: "Recordings", title: "Recordings of the shelf" }
  ];
  let kind = $state<Kind>(items.length > 0 ? "clip" : "recording");
  let typed = $state("");
  /** Rows of files that were given here: what they become is chosen. */
  let given: ReadonlySet<string> = $state.raw(new Set());

  const clips = $derived.by((): Sound[] => {
    const tracks = new Map(
      tracksInOrder(session.shown).map((track, i) => [track.id, { name: track.name, order: i }])
    );
    return [...session.shown.values("clips")]
      .sort(
        (a, b) => (tracks.get(a.track)?.order ?? 0) - (tracks.get(b.track)?.order ?? 0) || a.start - b.start
      )
      .map((clip) => ({
        id: clip.id,
        name: clip.name,
        where: tracks.get(clip.track)?.name ?? "",
        frames: clip.length
      }));
  });
  const recordings = $derived(
    recordingsByName(session.shown)
      .filter((recording) => recording.binned === undefined)
      .map((recording): Sound => ({
        id: recording.id,
        name: recording.name,
        where: recording.folder ?? "",
        frames: recording.frames
      }))
  );
  const want = $derived(typed.trim().toLowerCase());
  const shown = $derived(
    (kind === "clip" ? clips : recordings).filter(({ name, where }) =>
      `${name} ${where}`.toLowerCase().includes(want)
    )
  );
  const chosen = $derived(new Set(items.map((item) => `${item.kind} ${item.id}`)));
  const all = $derived(shown.length > 0 && shown.every(({ id }) => chosen.has(`${kind} ${id}`)));

  // What goes is no longer chosen; what was given here is, as soon as it is there.
  $effect(() => {
    const there = new Set([
      ...clips.map(({ id }) => `clip ${id}`),
      ...recordings.map(({ id }) => `recording ${id}`)
    ]);
    const left = items.filter((item) => there.has(`${item.kind} ${item.id}`));
    const come = editor.jobs.imports.rows.flatMap(({ key, recordingId: id }) =>
      given.has(key) && id !== null && there.has(`recording ${id}`) ? [{ key, id }] : []
    );
    if (left.length === items.length && come.length === 0) return;
    const ids = [...new Set(come.map(({ id }) => id))].filter((id) => !chosen.has(`recording ${id}`));
    items = [...left, ...ids.map((id) => ({ kind: "recording" as const, id }))];
    const keys = new Set(come.map(({ key }) => key));
    if (keys.size > 0) given = new Set([...given].filter((key) => !keys.has(key)));
  });

  function toggle(id: string): void {
    items = chosen.has(`${kind} ${id}`)
      ? items.filter((item) => item.kind !== kind || item.id !== id)
      : [...items, { kind, id }];
  }

  function toggleAll(): void {
    const ids = new Set(shown.map(({ id }) => id));
    const others = items.filter((item) => item.kind !== kind || !ids.has(item.id));
    items = all ? others : [...others, ...shown.map(({ id }) => ({ kind, id }))];
  }

  function take(files: Given): void {
    kind = "recording";
    given = new Set([...given, ...editor.jobs.importFiles(files)]);
  }

  function drop(event: DragEvent): void {
    if (!event.dataTransfer?.types.includes("Files")) return;
    event.preventDefault();
    event.stopPropagation();
    droppedFiles(event.dataTransfer)
      .then(take)
      .catch((error: unknown) => notices.fault(error));
  }
</script>

<!-- The button beside does the same. -->
<!-- svelte-ignore a11y_no_static_element_interactions -->
<div class="box" ondrop={drop}>
  <div class="row">
    <Choice label="Kind of sounds" items={KINDS} value={kind} choose={(id) => (kind = id)} />
    <span class="gap"></span>
    <ImportButton label="Files…" {take} folder />
  </div>
  <Search size="sm" labelText="Search sounds" placeholder="Name, track or folder" bind:value={typed} />
  <div class="row">
    <Checkbox
      labelText={typed.trim() === "" ? "All" : "All that are found"}
      checked={all}
      disabled={shown.length === 0}
      on:check={({ detail }) => detail !== all && toggleAll()}
    />
    <span class="gap"></span>
    <span class="soft">{items.length} chosen</span>
    {#if items.length > 0}<Button kind="ghost" size="small" on:click={() => (items = [])}>None</Button>{/if}
  </div>
  <ul aria-label={kind === "clip" ? "Clips" : "Recordings"}>
    {#each shown as sound (sound.id)}
      <li>
        <label>
          <input
            type="checkbox"
            checked={chosen.has(`${kind} ${sound.id}`)}
            onchange={() => toggle(sound.id)}
          />
          <span class="name" title={sound.name}>{sound.name}</span>
          <span class="soft where">{sound.where}</span>
          <span class="number">{formatTime(sound.frames / sampleRate)}</span>
        </label>
      </li>
    {:else}
      <li class="soft none">
        {typed.trim() !== ""
          ? "Nothing has that in its name."
          : "Nothing here yet. Drop sound files here, or choose them with “Files…”."}
      </li>
    {/each}
  </ul>
</div>

<style>
  .box {
    display: flex;
    flex: 1;
    flex-direction: column;
    min-height: 0;
    gap: 6px;
  }

  .row {
    display: flex;
    align-items: center;
    gap: 6px;
    font-size: 12px;
  }

  .row > :global(.bx--form-item) {
    flex: none;
  }

  .gap {
    flex: 1;
  }

  ul {
    flex: 1;
    min-height: 80px;
    margin: 0;
    padding: 0;
    overflow-y: auto;
    border: 1px solid var(--w-rule);
    list-style: none;
  }

  label {
    display: grid;
    grid-template-columns: 18px minmax(0, 1fr) minmax(0, auto) auto;
    align-items: center;
    gap: 6px;
    min-height: 26px;
    padding: 0 8px;
    font-size: 13px;
    cursor: pointer;
  }

  label:hover {
    background: var(--w-paper);
  }

  .name,
  .where {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }

  .where {
    max-width: 90px;
  }

  .where,
  .number {
    font-size: 12px;
  }

  .none {
    padding: 14px;
    font-size: 13px;
  }
</style>
