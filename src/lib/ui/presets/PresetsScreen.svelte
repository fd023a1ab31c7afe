<!-- All presets: searched, heard on a clip before they are applied, named and tagged, exchanged as files. -->
<script lang="ts">
  import { onDestroy, onMount } from "svelte";
  import { Button, Search } from "carbon-components-svelte";
  import DocumentImport from "carbon-icons-svelte/lib/DocumentImport.svelte";
  import Choice from "../shared/Choice.svelte";
  import { notices } from "../shared/notices.svelte";
  import { useEditor } from "../state/editor.svelte";
  import { presetsFileUrl } from "../state/presets.svelte";
  import { foundRows, PRESET_KINDS, presetRows, type PresetKind } from "../state/presetRows";
  import { stopTrial } from "../state/tryOut";
  import PresetDetail from "./PresetDetail.svelte";
  import PresetTable from "./PresetTable.svelte";

  const editor = useEditor();
  const { presets, fadePresets, session } = editor;
  const KINDS = PRESET_KINDS.map((id) => ({
    id,
    name: { all: "All", chain: "Chains", effect: "Settings", fade: "Fades" }[id],
    title: {
      all: "All presets",
      chain: "Chains of several steps",
      effect: "Settings of one effect",
      fade: "Shapes of fades"
    }[id]
  }));
  let typed = $state("");
  let kind = $state<PresetKind>("all");
  let chosen = $state<string | null>(null);
  let marked = $state.raw<ReadonlySet<string>>(new Set());
  let picker: HTMLInputElement | undefined = $state();

  const rows = $derived(presetRows(presets.list, fadePresets.list));
  const found = $derived(foundRows(rows, kind, typed));
  const row = $derived(found.find((one) => one.id === chosen) ?? found[0]);
  const exported = $derived(
    rows.filter((one) => one.kind !== "fade" && marked.has(one.id)).map(({ id }) => id)
  );
  const tags = $derived([...new Set(rows.flatMap((one) => one.tags))].sort());

  onMount(() => {
    presets.load().catch((error: unknown) => notices.fault(error));
  });
  onDestroy(() => stopTrial(editor));

  function take(input: HTMLInputElement): void {
    for (const file of input.files ?? []) {
      const adding = file.text().then((text) => {
        // Fades have a file of their own.
        if (/"wring"\s*:\s*"fades"/.test(text)) return fadePresets.fromFile(file);
        return presets.addFile(file);
      });
      adding.catch((error: unknown) => notices.fault(error));
    }
    input.value = "";
  }
</script>

<main class="presets" aria-label="Presets for {session.shown.name}">
  <section class="list" aria-label="List of presets">
    <div class="tools">
      <Search
        size="sm"
        labelText="Search presets"
        placeholder="Name, tag, effect or note"
        bind:value={typed}
      />
      <Choice label="Kind of preset" items={KINDS} value={kind} choose={(id) => (kind = id)} />
      <span class="gap"></span>
      <Button kind="tertiary" size="small" icon={DocumentImport} on:click={() => picker?.click()}
        >From a file…</Button
      >
      <Button
        kind="tertiary"
        size="small"
        disabled={exported.length === 0}
        href={exported.length === 0 ? undefined : presetsFileUrl(exported)}
        download>{exported.length > 1 ? `${exported.length} to a file` : "To a file"}</Button
      >
      <input
        bind:this={picker}
        class="visually-hidden"
        type="file"
        accept=".json,application/json"
        multiple
        tabindex="-1"
        aria-label="Files with presets"
        onchange={(event) => take(event.currentTarget)}
      />
    </div>
    {#if tags.length > 0}
      <div class="tags" role="group" aria-label="Tags">
        {#each tags as tag (tag)}
          <button class="tag" aria-pressed={typed === tag} onclick={() => (typed = typed === tag ? "" : tag)}
            >{tag}</button
          >
        {/each}
      </div>
    {/if}
    <PresetTable rows={found} chosen={row?.id ?? null} choose={(id) => (chosen = id)} bind:marked />
    {#if found.length === 0}<p class="soft none">
        No preset has that in its name, tags, notes or steps.
      </p>{/if}
  </section>
  <section class="detail" aria-label="The chosen preset">
    {#if row}{#key row.id}<PresetDetail {row} />{/key}{/if}
  </section>
</main>

<style>
  .presets {
    display: grid;
    grid-template-columns: minmax(0, 1fr) 430px;
    min-height: 0;
    background: var(--w-panel);
  }

  .list {
    display: flex;
    flex-direction: column;
    min-height: 0;
    padding: 10px 16px;
    gap: 8px;
  }

  .tools {
    display: flex;
    align-items: center;
    gap: 8px;
  }

  .tools > :global(.bx--search) {
    flex: 0 1 280px;
  }

  .gap {
    flex: 1;
  }

  .tags {
    display: flex;
    flex-wrap: wrap;
    gap: 4px;
  }

  .tag {
    padding: 1px 8px;
    border: 1px solid var(--w-rule);
    border-radius: 9px;
    background: var(--w-paper);
    color: var(--w-ink);
    font-size: 12px;
    cursor: pointer;
  }

  .tag[aria-pressed="true"] {
    border-color: var(--w-ink);
    font-weight: 600;
  }

  .detail {
    min-height: 0;
    padding: 10px 16px;
    overflow-y: auto;
    border-left: 1px solid var(--w-rule);
    background: var(--w-paper);
  }

  .none {
    margin: 0;
  }
</style>
