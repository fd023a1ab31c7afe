<!-- One preset: what it does step by step, heard on the selected clip, applied, renamed, tagged, deleted. -->
<script lang="ts">
  import { Button, Checkbox, TextArea, TextInput } from "carbon-components-svelte";
  import Play from "carbon-icons-svelte/lib/PlayFilledAlt.svelte";
  import Stop from "carbon-icons-svelte/lib/StopFilledAlt.svelte";
  import TrashCan from "carbon-icons-svelte/lib/TrashCan.svelte";
  import { goto } from "$app/navigation";
  import { notices } from "../shared/notices.svelte";
  import { applyPreset, setFade } from "../state/editing";
  import { useEditor } from "../state/editor.svelte";
  import { stepText, type PresetRow } from "../state/presetRows";
  import { presetsFileUrl } from "../state/presets.svelte";
  import { tryOut } from "../state/tryOut";

  let { row }: { row: PresetRow } = $props();
  const editor = useEditor();
  const { presets, fadePresets, selection, session, trials } = editor;
  // As they were when it was chosen: the row is made anew for another.
  // svelte-ignore state_referenced_locally
  let name = $state(row.name);
  // svelte-ignore state_referenced_locally
  let notes = $state(row.notes);
  // svelte-ignore state_referenced_locally
  let tags = $state(row.tags.join(", "));
  let fault = $state("");
  const clip = $derived(selection.clip);
  const changed = $derived(name.trim() !== row.name || notes !== row.notes || tags !== row.tags.join(", "));
  const words = $derived([
    ...new Set(
      tags
        .split(",")
        .map((word) => word.trim())
        .filter(Boolean)
    )
  ]);
  const steps = $derived(row.kind === "fade" ? [] : row.preset.steps);
  const trying = $derived(trials.order !== null);

  async function save(): Promise<void> {
    const facts = { name: name.trim(), notes, tags: words };
    fault = (await (row.kind === "fade" ? fadePresets.set(row.id, facts) : presets.set(row.id, facts))) ?? "";
    if (!fault) notices.news(`"${facts.name}" is changed.`);
  }

  function hear(): void {
    if (row.kind === "fade" || !clip) return;
    tryOut(editor, { kind: "clip", id: clip.id }, row.preset.steps, row.preset.recordings);
  }

  function apply(): void {
    if (row.kind === "fade") {
      setFade(editor, "in", { shape: row.fade.shape });
      setFade(editor, "out", { shape: row.fade.shape });
    } else applyPreset(editor, row.preset);
    goto(`/projects/${session.projectId}`).catch((error: unknown) => notices.fault(error));
  }

  /** A copy that can be changed. */
  async function copy(): Promise<void> {
    if (row.kind === "fade") return;
    const { notes: text, tags: own, steps: chain, recordings } = row.preset;
    const text2 = { name: `${row.name}, my own`.slice(0, 80), notes: text, tags: own };
    fault = (await presets.save(text2, chain, recordings)) ?? "";
  }

  const remove = () => (row.kind === "fade" ? fadePresets.remove(row.id) : presets.remove(row.id));
</script>

<h2>{row.name}</h2>
{#if row.factory}<p class="soft">{row.notes}</p>{/if}
<div class="row">
  {#if row.kind !== "fade"}
    <Button
      size="small"
      kind="tertiary"
      icon={trying ? Stop : Play}
      disabled={!clip && !trying}
      title={clip ? "Round and round; nothing is changed" : "Select a clip on the timeline first"}
      on:click={hear}
      >{trying ? "Stop" : clip ? `Hear it on ${clip.name}` : "Hear it: select a clip first"}</Button
    >
    {#if trying}<Checkbox labelText="before" bind:checked={trials.before} /><Checkbox
        labelText="equally loud"
        bind:checked={trials.equalLoudness}
      />{/if}
  {/if}
  <Button size="small" disabled={row.kind === "fade" && !clip} on:click={apply}
    >{row.kind === "fade" ? "Use for both fades" : `Apply to ${selection.title}`}</Button
  >
</div>
{#if steps.length > 0}
  <ol aria-label="Steps">
    {#each steps as step, i (i)}
      <li class:off={!step.on}>{stepText(step.effect, step.params)}{step.on ? "" : " (off)"}</li>
    {/each}
  </ol>
{:else}
  <p>{row.what}</p>
{/if}
{#if row.kind !== "fade" && row.preset.recordings.length > 0}
  <p class="soft">Brings along: {row.preset.recordings.map((recording) => recording.name).join(", ")}</p>
{/if}
{#if row.factory}
  <p class="soft">It comes with Wring and stays as it is. A copy can be changed.</p>
  <Button size="small" kind="tertiary" on:click={copy}>Make a copy of my own</Button>
{:else}
  <div class="fields">
    <TextInput
      size="sm"
      labelText="Name"
      maxlength={80}
      bind:value={name}
      invalid={fault !== ""}
      invalidText={fault}
    />
    <TextArea rows={2} labelText="Notes" maxlength={1000} bind:value={notes} />
    <TextInput size="sm" labelText="Tags, separated by commas" bind:value={tags} />
  </div>
  <div class="row">
    <Button size="small" kind="tertiary" disabled={!changed || name.trim() === ""} on:click={save}
      >Save changes</Button
    >
    <Button size="small" kind="ghost" icon={TrashCan} on:click={remove}>Delete</Button>
  </div>
{/if}
{#if row.kind !== "fade"}
  <a class="file" href={presetsFileUrl([row.id])} download>Save it as a file</a>
{/if}
{#if row.factory && fault}<p class="fault" role="alert">{fault}</p>{/if}

<style>
  h2 {
    margin: 0 0 4px;
    font-size: 16px;
    font-weight: 600;
  }

  p {
    margin: 0 0 8px;
    font-size: 13px;
  }

  ol {
    margin: 8px 0;
    padding: 6px 10px;
    border: 1px solid var(--w-rule);
    background: var(--w-panel);
    font-size: 13px;
    list-style: decimal inside;
  }

  li {
    padding: 2px 0;
  }

  .off {
    color: var(--w-soft);
  }

  .row {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 8px;
    margin: 8px 0;
  }

  /* Carbon spaces the first and the last of several that lie below each other. */
  .row :global(.bx--checkbox-wrapper) {
    margin: 0;
  }

  .fields {
    display: grid;
    gap: 8px;
  }

  .file {
    display: inline-block;
    margin-top: 6px;
    color: var(--w-ink);
    font-size: 13px;
  }

  .fault {
    color: var(--w-madder);
  }
</style>
