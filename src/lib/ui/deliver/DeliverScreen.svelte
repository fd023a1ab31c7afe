<!-- The screen on which files are made of the project. -->
<script lang="ts">
  import { onMount } from "svelte";
  import { Button } from "carbon-components-svelte";
  import { itemsOf, type Wanted } from "$lib/core/delivery/items";
  import { patternFault } from "$lib/core/delivery/names";
  import { settingsFault } from "$lib/core/delivery/settings";
  import { notices } from "../shared/notices.svelte";
  import { useEditor } from "../state/editor.svelte";
  import FileList from "./FileList.svelte";
  import FormatFields from "./FormatFields.svelte";
  import HandOver from "./HandOver.svelte";
  import LevelFields from "./LevelFields.svelte";
  import NameField from "./NameField.svelte";
  import PresetFields from "./PresetFields.svelte";
  import TextFields from "./TextFields.svelte";
  import WhatFields from "./WhatFields.svelte";

  const { deliveries, session, selection } = useEditor();
  let wanted = $state.raw<Wanted>(
    selection.range ? { what: "range", from: selection.range.from, to: selection.range.to } : { what: "mix" }
  );
  let ordering = $state(false);
  const count = $derived(itemsOf(session.document, wanted).length);
  const fault = $derived(settingsFault(deliveries.settings) ?? patternFault(deliveries.settings.pattern));

  onMount(() => {
    deliveries.load().catch((error: unknown) => notices.fault(error));
  });

  async function go(): Promise<void> {
    ordering = true;
    await deliveries.order(wanted);
    ordering = false;
  }
</script>

<main class="deliver" aria-label="Deliver {session.shown.name}">
  <div class="how">
    <section aria-label="What is delivered"><WhatFields bind:wanted /></section>
    <section aria-label="Saved settings"><PresetFields /></section>
    <section aria-labelledby="format-heading">
      <h2 id="format-heading">Format</h2>
      <FormatFields />
    </section>
    <section aria-labelledby="level-heading">
      <h2 id="level-heading">Level and ends</h2>
      <LevelFields />
    </section>
    <section aria-labelledby="texts-heading">
      <h2 id="texts-heading">Sections and texts</h2>
      <TextFields />
    </section>
    <section aria-labelledby="project-heading">
      <h2 id="project-heading">The project itself</h2>
      <HandOver />
    </section>
  </div>
  <div class="go">
    <NameField {wanted} />
    <Button size="small" disabled={count === 0 || fault !== undefined || ordering} on:click={go}>
      {count === 0 ? "Nothing to deliver" : count === 1 ? "Deliver 1 file" : `Deliver ${count} files`}
    </Button>
    {#if fault}<p class="fault" role="alert">{fault}</p>{/if}
  </div>
  <section class="files" aria-label="Delivered files"><FileList /></section>
</main>

<style>
  .deliver {
    display: grid;
    grid-template-columns: minmax(0, 1fr) 430px;
    grid-template-rows: minmax(0, 1fr) auto;
    min-height: 0;
    background: var(--w-paper);
  }

  .how {
    display: grid;
    align-content: start;
    gap: 1px;
    min-height: 0;
    overflow-y: auto;
    background: var(--w-rule);
  }

  .how section {
    padding: 10px 16px 12px;
    background: var(--w-panel);
  }

  /* Fields stand close together, each with its label right above it. */
  .deliver :global(.bx--label) {
    margin-bottom: 2px;
    color: var(--w-soft);
    font-size: 12px;
  }

  .deliver :global(.bx--select) {
    width: 100%;
  }

  .deliver :global(.bx--select-input),
  .deliver :global(.bx--text-input) {
    font-size: 13px;
  }

  h2 {
    margin: 0 0 6px;
    font-size: 14px;
    font-weight: 600;
  }

  .go {
    display: grid;
    grid-template-columns: minmax(0, 1fr);
    gap: 8px;
    justify-items: start;
    min-width: 0;
    padding: 10px 16px 12px;
    border-top: 1px solid var(--w-rule);
    background: var(--w-panel);
  }

  .go > :global(.row) {
    width: 100%;
  }

  .files {
    grid-column: 2;
    grid-row: 1 / 3;
    min-height: 0;
    padding: 10px 16px;
    overflow-y: auto;
    border-left: 1px solid var(--w-rule);
    background: var(--w-panel);
  }

  .fault {
    margin: 0;
    color: var(--w-madder);
    font-size: 13px;
  }
</style>
