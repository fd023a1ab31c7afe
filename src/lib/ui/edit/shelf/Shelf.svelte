<script lang="ts">
  import { onDestroy } from "svelte";
  import { SvelteMap, SvelteSet } from "svelte/reactivity";
  import { Button, Search, Select, SelectItem, Tab, TabContent, Tabs } from "carbon-components-svelte";
  import ChevronDown from "carbon-icons-svelte/lib/ChevronDown.svelte";
  import ChevronRight from "carbon-icons-svelte/lib/ChevronRight.svelte";
  import Close from "carbon-icons-svelte/lib/Close.svelte";
  import {
    clipCounts,
    SHELF_FILTERS,
    SHELF_ORDERS,
    shelfFolders,
    type ShelfFilter,
    type ShelfFolder,
    type ShelfOrder
  } from "$lib/core/session/shelfOrder";
  import ImportButton from "../../shared/ImportButton.svelte";
  import { useEditor } from "../../state/editor.svelte";
  import EffectsList from "./EffectsList.svelte";
  import FadesList from "./FadesList.svelte";
  import { Listen } from "./listen.svelte";
  import PresetsList from "./PresetsList.svelte";
  import RecordingRow from "./RecordingRow.svelte";

  const editor = useEditor();
  const { session } = editor;
  /** Fewer recordings are seen at a glance. */
  const FEW = 4;
  /** So many rows of a folder are shown at first, and so many more each time. */
  const SHOWN = 60;
  const shown = new SvelteMap<string, number>();
  /** So many rows are made with each frame: many at once would hold the page up. */
  const STEP = 6;
  const listen = new Listen();
  let words = $state("");
  let order = $state<ShelfOrder>("name");
  let filter = $state<ShelfFilter>("all");
  /** Folders that are closed. */
  const closed = new SvelteSet<string>();
  let laid: readonly ShelfFolder[] = [];
  function layAnew(): readonly ShelfFolder[] {
    laid = shelfFolders(session.shown, { words, order, filter }, laid);
    return laid;
  }
  const folders = $derived(layAnew());
  const counts = $derived(clipCounts(session.shown));
  const many = $derived(session.shown.size("recordings") > FEW);

  const wanted = $derived(folders.map((folder) => rowsOf(folder)));
  const wantedRows = $derived(wanted.reduce((sum, n) => sum + n, 0));
  /** Rows of all folders together that are made by now. */
  let made = $state(STEP);
  const rows = $derived.by(() => {
    let left = made;
    return wanted.map((n) => {
      const now = Math.min(n, left);
      left -= now;
      return now;
    });
  });
  $effect(() => {
    if (made === wantedRows) return;
    const next = Math.min(wantedRows, made + STEP);
    const frame = requestAnimationFrame(() => (made = next));
    return () => cancelAnimationFrame(frame);
  });

  onDestroy(() => listen.stop());

  /** Rows of a folder that are to be seen. */
  function rowsOf({ path, recordings }: ShelfFolder): number {
    return closed.has(path) ? 0 : Math.min(recordings.length, shown.get(path) ?? SHOWN);
  }

  function fold(path: string): void {
    if (!closed.delete(path)) closed.add(path);
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
    <Tab label="Effects" />
    <svelte:fragment slot="content">
      <TabContent>
        <div class="list">
          <span class="import"
            ><ImportButton
              folder
              label="Import sound files…"
              take={(given) => editor.importFiles(given)}
            /></span
          >
          {#if many}
            <Search
              size="xs"
              labelText="Find a recording"
              placeholder="Find by name, label, tag, file"
              bind:value={words}
              on:keydown={(event) => event.stopPropagation()}
            />
            <div class="wishes">
              <Select size="xs" labelText="Sort by" bind:selected={order}>
                {#each Object.entries(SHELF_ORDERS) as [value, text] (value)}<SelectItem
                    {value}
                    {text}
                  />{/each}
              </Select>
              <Select size="xs" labelText="Show" bind:selected={filter}>
                {#each Object.entries(SHELF_FILTERS) as [value, text] (value)}<SelectItem
                    {value}
                    {text}
                  />{/each}
              </Select>
            </div>
          {/if}
          {#each folders as { path, recordings }, i (path)}
            {#if path !== ""}
              <button
                class="folder"
                aria-expanded={!closed.has(path)}
                aria-label="Folder {path}, {recordings.length} recording{recordings.length === 1 ? '' : 's'}"
                onclick={() => fold(path)}
                >{#if closed.has(path)}<ChevronRight size={16} />{:else}<ChevronDown size={16} />{/if}
                <span class="name">{path}</span> <span class="soft number">{recordings.length}</span></button
              >
            {/if}
            {#if !closed.has(path)}
              {@const most = wanted[i] ?? 0}
              {#each recordings.slice(0, rows[i]) as recording (recording.id)}
                <RecordingRow {recording} clips={counts.get(recording.id) ?? 0} {listen} />
              {/each}
              {#if recordings.length > most}
                <Button
                  kind="ghost"
                  size="small"
                  title="Or find them by typing above"
                  on:click={() => shown.set(path, most + 4 * SHOWN)}
                  >Show more: {recordings.length - most} are left</Button
                >
              {/if}
            {/if}
          {:else}
            <p class="empty">
              {#if words.trim() === "" && filter === "all"}No recordings yet. Drop sound files, videos or
                whole folders anywhere on this window, or import them here.{:else}No recording is like that.{/if}
            </p>
          {/each}
        </div>
      </TabContent>
      <TabContent>
        <div class="list">
          <PresetsList />
          <FadesList />
        </div>
      </TabContent>
      <TabContent><div class="list"><EffectsList /></div></TabContent>
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

  .name {
    overflow: hidden;
    font-size: 13px;
    text-overflow: ellipsis;
    white-space: nowrap;
  }

  .import {
    display: flex;
    gap: 4px;
  }

  .wishes {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 6px;
    margin-bottom: 4px;
  }

  .wishes :global(.bx--label) {
    margin-bottom: 0;
    font-size: 11px;
  }

  .folder {
    display: flex;
    align-items: center;
    gap: 4px;
    padding: 4px 2px;
    border: 0;
    border-bottom: 1px solid var(--w-rule);
    background: var(--w-paper);
    color: var(--w-ink);
    cursor: pointer;
    font: inherit;
    text-align: left;
  }

  .folder .name {
    flex: 1;
    font-weight: 600;
  }

  .empty {
    margin: 8px 0;
    padding: 14px;
    border: 1px dashed var(--w-soft);
  }
</style>
