<!-- What of a copied treatment is given to all that is on the bench, each part ticked or not. -->
<script lang="ts">
  import { Checkbox, Modal, RadioButton, RadioButtonGroup } from "carbon-components-svelte";
  import { SvelteSet } from "svelte/reactivity";
  import { useEditor } from "../../state/editor.svelte";
  import { behindText, copiedTreatment, pasteTreatment, stepText } from "../../state/treatments";

  const editor = useEditor();
  const { selection } = editor;
  // As it was when the dialog opened.
  const treatment = copiedTreatment();
  const chosen = new SvelteSet(treatment?.steps.map((_, i) => i));
  const behind = treatment && behindText(editor, treatment);
  const ticked = $state({ gain: false, fades: false, line: false });
  let mode = $state<"replace" | "append">("replace");
  const clips = $derived(selection.subject.clip !== undefined);
  const nothing = $derived(chosen.size === 0 && !(clips && (ticked.gain || ticked.fades || ticked.line)));
  const close = () => (editor.dialog = null);

  function tick(index: number, on: boolean): void {
    if (on) chosen.add(index);
    else chosen.delete(index);
  }

  function go(): void {
    if (!treatment || nothing) return;
    const steps = [...chosen].sort((a, b) => a - b);
    const parts = clips ? { steps, ...ticked } : { steps, gain: false, fades: false, line: false };
    if (pasteTreatment(editor, treatment, parts, mode)) close();
  }
</script>

{#if treatment}
  <Modal
    open
    size="sm"
    modalHeading="Paste the treatment of {treatment.from}"
    primaryButtonText="Paste to {selection.title}"
    primaryButtonDisabled={nothing}
    secondaryButtonText="Cancel"
    on:submit={go}
    on:close={close}
    on:click:button--secondary={close}
  >
    <fieldset class="parts">
      <legend>Steps</legend>
      {#each treatment.steps as step, i (i)}
        <Checkbox
          labelText="{i + 1} {stepText(step)}"
          checked={chosen.has(i)}
          on:check={({ detail }) => tick(i, detail)}
        />
      {:else}<p class="soft">It has no steps.</p>{/each}
    </fieldset>
    {#if treatment.steps.length > 0}
      <RadioButtonGroup legendText="Steps that are there already" bind:selected={mode}>
        <RadioButton value="replace" labelText="are replaced" />
        <RadioButton value="append" labelText="stay, these come behind them" />
      </RadioButtonGroup>
    {/if}
    {#if clips && behind?.gain}
      <fieldset class="parts">
        <legend>Behind the chain</legend>
        <Checkbox labelText={behind.gain} bind:checked={ticked.gain} />
        <Checkbox labelText={behind.fades} bind:checked={ticked.fades} />
        <Checkbox labelText={behind.line} bind:checked={ticked.line} />
      </fieldset>
    {/if}
  </Modal>
{:else}
  <Modal open passiveModal size="xs" modalHeading="Nothing is copied" on:close={close}>
    <p>Put a clip, track or recording on the bench and copy its treatment first (Y).</p>
  </Modal>
{/if}

<style>
  .parts {
    margin: 0 0 12px;
    padding: 0;
    border: 0;
  }

  legend {
    margin-bottom: 4px;
    font-size: 12px;
    font-weight: 600;
  }
</style>
