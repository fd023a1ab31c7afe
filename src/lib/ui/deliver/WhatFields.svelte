<!-- What is delivered. -->
<script lang="ts">
  import { Checkbox, RadioButton, RadioButtonGroup } from "carbon-components-svelte";
  import { programmeOver } from "$lib/core/render/graph";
  import { itemsOf, type Wanted } from "$lib/core/delivery/items";
  import { recordingsByName, sectionsInOrder, tracksInOrder } from "$lib/core/session/lookup";
  import { formatTime } from "$lib/core/units/time";
  import { useEditor } from "../state/editor.svelte";

  let { wanted = $bindable() }: { wanted: Wanted } = $props();
  const { session, selection, sampleRate } = useEditor();
  type What = Wanted["what"];
  const doc = $derived(session.document);
  const time = (frames: number) => formatTime(frames / sampleRate, 1);

  interface Listed {
    readonly id: string;
    readonly name: string;
    readonly length: number;
  }
  const videos = $derived(recordingsByName(doc).filter(({ about }) => (about?.video ?? null) !== null));
  /** What can be ticked, for those that are lists. */
  const lists = $derived<Partial<Record<What, readonly Listed[]>>>({
    sections: sectionsInOrder(doc),
    tracks: tracksInOrder(doc).map(({ id, name }) => ({ id, name, length: programmeOver(doc) })),
    videos: videos.map(({ id, name, frames }) => ({ id, name, length: frames })),
    recordings: recordingsByName(doc).map(({ id, name, frames }) => ({ id, name, length: frames }))
  });
  const listed = $derived(lists[wanted.what] ?? []);
  const ticked = $derived(new Set("ids" in wanted ? wanted.ids : []));
  const { range } = $derived({ range: selection.range });

  const kinds = $derived<{ what: What; label: string; off: boolean }[]>([
    { what: "mix", label: `The mix, ${time(programmeOver(doc))}`, off: programmeOver(doc) === 0 },
    {
      what: "range",
      label: range ? `The range, ${time(range.from)} to ${time(range.to)}` : "The range (none is selected)",
      off: !range
    },
    { what: "sections", label: `Sections, ${doc.size("sections")}`, off: doc.size("sections") === 0 },
    { what: "tracks", label: `Tracks, as stems, ${doc.size("tracks")}`, off: doc.size("clips") === 0 },
    {
      what: "clips",
      label: `Selected clips, ${selection.clipIds.length}`,
      off: selection.clipIds.length === 0
    },
    ...(videos.length > 0
      ? [{ what: "videos" as const, label: `Sound back into its video, ${videos.length}`, off: false }]
      : []),
    { what: "recordings", label: `Recordings, ${doc.size("recordings")}`, off: doc.size("recordings") === 0 }
  ]);

  function choose(what: What): void {
    if (what === wanted.what) return;
    if (what === "mix") wanted = { what };
    else if (what === "range") wanted = { what, from: range?.from ?? 0, to: range?.to ?? 0 };
    else if (what === "clips") wanted = { what, ids: [...selection.clipIds] };
    else wanted = { what, ids: (lists[what] ?? []).map(({ id }) => id) };
  }

  function tick(id: string, on: boolean): void {
    if (!("ids" in wanted)) return;
    wanted = { ...wanted, ids: on ? [...wanted.ids, id] : wanted.ids.filter((other) => other !== id) };
  }

  function tickAll(on: boolean): void {
    if ("ids" in wanted) wanted = { ...wanted, ids: on ? listed.map(({ id }) => id) : [] };
  }

  const files = $derived(itemsOf(doc, wanted).length);
</script>

<div class="what">
  <RadioButtonGroup
    legendText="What"
    orientation="vertical"
    selected={wanted.what}
    on:change={({ detail }) => choose(detail as What)}
  >
    {#each kinds as { what, label, off } (what)}
      <RadioButton value={what} labelText={label} disabled={off} />
    {/each}
  </RadioButtonGroup>
  {#if listed.length > 0}
    <div class="list" role="group" aria-label="Which of them">
      <Checkbox
        labelText="All {listed.length}"
        checked={ticked.size === listed.length}
        indeterminate={ticked.size > 0 && ticked.size < listed.length}
        on:check={({ detail }) => detail !== (ticked.size === listed.length) && tickAll(detail)}
      />
      {#each listed as { id, name, length } (id)}
        <Checkbox
          labelText={`${name}, ${time(length)}`}
          checked={ticked.has(id)}
          on:check={({ detail }) => detail !== ticked.has(id) && tick(id, detail)}
        />
      {/each}
    </div>
  {:else}
    <p class="soft">
      {wanted.what === "mix"
        ? "With the chains of all tracks and of the mix, to where the last tail has died away."
        : wanted.what === "clips"
          ? "Each with its own steps, gain and fades; without its track's and the mix's."
          : "The mix between the range's ends."}
      {files === 1 ? "One file." : `${files} files.`}
    </p>
  {/if}
</div>

<style>
  .what {
    display: grid;
    grid-template-columns: 240px minmax(0, 1fr);
    gap: 16px;
  }

  .list {
    max-height: 158px;
    padding: 4px 8px;
    overflow-y: auto;
    border: 1px solid var(--w-rule);
  }

  .list :global(.bx--form-item) {
    margin: 0;
  }

  .what :global(.bx--radio-button-wrapper) {
    margin-bottom: 2px !important;
  }

  p {
    margin: 20px 0 0;
    font-size: 13px;
  }
</style>
