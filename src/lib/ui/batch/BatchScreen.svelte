<!-- One chain, and a level if wanted, for many sounds in one action; below what became of those that were ordered. -->
<script lang="ts">
  import { onDestroy, onMount } from "svelte";
  import { Button, Checkbox, TextInput } from "carbon-components-svelte";
  import Play from "carbon-icons-svelte/lib/PlayFilledAlt.svelte";
  import Stop from "carbon-icons-svelte/lib/StopFilledAlt.svelte";
  import type { NewBatch } from "$lib/api/batches";
  import { levelStep, type Level } from "$lib/core/session/batch";
  import Choice from "../shared/Choice.svelte";
  import { notices } from "../shared/notices.svelte";
  import { useEditor } from "../state/editor.svelte";
  import { stopTrial, tryOut } from "../state/tryOut";
  import BatchReport from "./BatchReport.svelte";
  import { BatchChain } from "./chain.svelte";
  import ChainFields from "./ChainFields.svelte";
  import LevelChoice from "./LevelChoice.svelte";
  import SoundList from "./SoundList.svelte";

  type Items = NewBatch["items"];

  const editor = useEditor();
  const { batches, session, selection, trials } = editor;
  const MODES = [
    { id: "replace" as const, name: "instead of theirs", title: "The steps that clips have are replaced" },
    { id: "append" as const, name: "behind theirs", title: "The steps come behind those that clips have" }
  ];
  const chain = new BatchChain();
  let level = $state.raw<Level | null>(null);
  let mode = $state<"replace" | "append">("replace");
  let items = $state.raw<Items>(selection.clipIds.map((id) => ({ kind: "clip" as const, id })));
  let fault = $state("");
  let ordering = $state(false);
  const clips = $derived(items.filter((item) => item.kind === "clip").length);
  const recordings = $derived(items.length - clips);
  const name = $derived(chain.name.trim() || (level ? "To a level" : ""));
  const nothing = $derived(!chain.steps.some((step) => step.on) && !level);
  const [example] = $derived(items);
  const trying = $derived(trials.order !== null);
  const counted = (n: number, what: string) => (n === 0 ? "" : `${n} ${what}${n === 1 ? "" : "s"}`);
  const whom = $derived(
    [counted(clips, "clip"), counted(recordings, "recording")].filter(Boolean).join(" and ")
  );

  onMount(() => {
    batches.load().catch((error: unknown) => notices.fault(error));
    editor.presets.load().catch((error: unknown) => notices.fault(error));
  });
  onDestroy(() => stopTrial(editor));

  async function go(): Promise<void> {
    ordering = true;
    stopTrial(editor);
    fault =
      (await batches.order({
        name,
        steps: chain.steps.map((step) => ({ ...step })),
        recordings: [...chain.recordings],
        level,
        items,
        mode
      })) ?? "";
    ordering = false;
  }

  function hear(): void {
    if (example)
      tryOut(editor, example, level ? [...chain.steps, levelStep(level)] : chain.steps, chain.recordings);
  }

  const start = () => {
    go().catch((error: unknown) => notices.fault(error));
  };
</script>

<main class="batch" aria-label="Batch in {session.shown.name}">
  <section class="sounds" aria-labelledby="sounds-heading">
    <h2 id="sounds-heading">1 Sounds</h2>
    <SoundList bind:items />
  </section>
  <section class="chain" aria-labelledby="chain-heading">
    <h2 id="chain-heading">2 What is done to each</h2>
    <ChainFields {chain} />
    <LevelChoice bind:level />
  </section>
  <section class="result" aria-labelledby="go-heading">
    <h2 id="go-heading">3 Hear one, then all</h2>
    <div class="row">
      <Button
        size="small"
        kind="tertiary"
        icon={trying ? Stop : Play}
        disabled={!trying && (!example || nothing)}
        on:click={hear}>{trying ? "Stop" : "Hear the first one"}</Button
      >
      {#if trying}<Checkbox labelText="before" bind:checked={trials.before} /><Checkbox
          labelText="equally loud"
          bind:checked={trials.equalLoudness}
        />{/if}
    </div>
    {#if clips > 0}
      <div class="row">
        <span class="soft">On clips the steps come</span>
        <Choice label="Steps of clips" items={MODES} value={mode} choose={(id) => (mode = id)} />
      </div>
    {/if}
    <TextInput size="sm" labelText="Name of the batch" maxlength={80} bind:value={chain.name} />
    <p class="soft">
      {#if clips > 0}Clips get the steps and a render of them: what they were is undone in one step.{/if}
      {#if recordings > 0}Of each recording a treated one comes to lie beside it, in the shelf's folder Batch.{/if}
      Originals stay as they are.
    </p>
    <Button size="small" disabled={items.length === 0 || nothing || name === "" || ordering} on:click={start}
      >{items.length === 0
        ? "Choose sounds first"
        : nothing
          ? "Choose what is done first"
          : `Treat ${whom}`}</Button
    >
    {#if fault}<p class="fault" role="alert">{fault}</p>{/if}
    <div class="reports">
      {#each batches.list as batch (batch.id)}<BatchReport {batch} />{:else}
        <p class="soft">
          What becomes of each sound is told here: its loudness before and after, and what failed and why.
        </p>
      {/each}
    </div>
  </section>
</main>

<style>
  .batch {
    display: grid;
    grid-template-columns: minmax(260px, 3fr) minmax(300px, 4fr) minmax(430px, 5fr);
    gap: 1px;
    min-height: 0;
    background: var(--w-rule);
  }

  section {
    display: flex;
    flex-direction: column;
    min-width: 0;
    min-height: 0;
    padding: 10px 14px;
    gap: 8px;
    background: var(--w-panel);
  }

  section > :global(.bx--form-item),
  section :global(.bx--select) {
    flex: none;
  }

  .chain,
  .result {
    overflow-y: auto;
  }

  h2 {
    margin: 0;
    font-size: 14px;
    font-weight: 600;
  }

  .row {
    display: flex;
    align-items: center;
    gap: 8px;
    font-size: 13px;
  }

  /* Carbon spaces the first and the last of several that lie below each other. */
  .row :global(.bx--checkbox-wrapper) {
    margin: 0;
  }

  p {
    margin: 0;
    font-size: 12px;
  }

  .fault {
    color: var(--w-madder);
    font-size: 13px;
  }

  .reports {
    display: grid;
    gap: 12px;
    padding-top: 8px;
    border-top: 1px solid var(--w-rule);
  }

  .batch :global(.bx--label) {
    margin-bottom: 2px;
    color: var(--w-soft);
    font-size: 12px;
  }
</style>
