<!-- All clips as a list: also those that are too narrow to be hit on their lanes. -->
<script lang="ts">
  import { Button, DataTable, Modal, Pagination, Search } from "carbon-components-svelte";
  import { clipState } from "$lib/core/session/clipState";
  import { resolveClip } from "$lib/core/session/lookup";
  import { formatTime } from "$lib/core/units/time";
  import { useEditor } from "../../state/editor.svelte";

  const editor = useEditor();
  const { session, selection, view, transport, sampleRate } = editor;
  let typed = $state("");
  let page = $state(1);
  let pageSize = $state(20);

  const doc = session.shown;
  const all = [...doc.values("clips")].sort((a, b) => a.start - b.start);
  const found = $derived(
    all.filter((clip) =>
      `${clip.name} ${doc.get("tracks", clip.track)?.name ?? ""}`.toLowerCase().includes(typed.toLowerCase())
    )
  );
  const rows = $derived(
    found.slice((page - 1) * pageSize, page * pageSize).map((clip) => ({
      id: clip.id,
      name: clip.name,
      track: doc.get("tracks", clip.track)?.name ?? "",
      start: formatTime(clip.start / sampleRate),
      length: `${(clip.length / sampleRate).toFixed(2)} s`,
      state: clipState(resolveClip(doc, clip))
    }))
  );

  function go(id: string): void {
    const clip = doc.get("clips", id);
    editor.dialog = null;
    if (!clip) return;
    selection.choose(id);
    transport.locate(clip.start);
    view.show(clip.start - clip.length, clip.start + 2 * clip.length);
  }
</script>

<Modal
  open
  passiveModal
  size="lg"
  modalHeading="{found.length} clip{found.length === 1 ? '' : 's'}"
  selectorPrimaryFocus="input"
  on:close={() => (editor.dialog = null)}
>
  <Search
    size="sm"
    labelText="Name of a clip or track"
    placeholder="Name of a clip or track"
    bind:value={typed}
    on:input={() => (page = 1)}
    on:keydown={(event) => event.key !== "Escape" && event.stopPropagation()}
  />
  <DataTable
    size="compact"
    headers={[
      { key: "name", value: "Clip" },
      { key: "track", value: "Track" },
      { key: "start", value: "Starts at" },
      { key: "length", value: "Length" },
      { key: "state", value: "State" }
    ]}
    {rows}
  >
    <svelte:fragment slot="cell" let:row let:cell>
      {#if cell.key === "name"}
        <Button kind="ghost" size="small" on:click={() => go(row.id)}>{cell.value}</Button>
      {:else}<span class:number={cell.key === "start" || cell.key === "length"}>{cell.value}</span>{/if}
    </svelte:fragment>
  </DataTable>
  {#if found.length > 20}
    <Pagination size="sm" totalItems={found.length} pageSizes={[20, 100]} bind:page bind:pageSize />
  {/if}
</Modal>
