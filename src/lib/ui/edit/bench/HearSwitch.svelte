<!-- Which candidate is heard: the sound as it came, as it is, kept states, presets that are not applied. -->
<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import { formatDb } from "$lib/core/units/decibels";
  import Disclosure from "../../shared/Disclosure.svelte";
  import { useEditor } from "../../state/editor.svelte";
  import { preview, previewable } from "../../state/previewing";
  import ComparePanel from "./ComparePanel.svelte";

  /** `change`: whether it is said what the chain does to the loudness. */
  let { change: said }: { change: boolean } = $props();
  const editor = useEditor();
  const { hearing, transport } = editor;
  const change = $derived.by(() => {
    const [before] = hearing.candidates;
    const difference = hearing.differences(before.levels)?.integratedLufs ?? NaN;
    return Number.isFinite(difference) ? `${formatDb(-difference, 1, true)} LU` : "";
  });
  const upper = (name: string) => name.charAt(0).toUpperCase() + name.slice(1);
</script>

<Button
  kind="tertiary"
  size="small"
  disabled={!previewable(editor)}
  aria-pressed={transport.preview !== null}
  title="Plays what is on the bench round and round (Alt P)"
  on:click={() => preview(editor)}>Preview</Button
>
<div class="switch" role="radiogroup" aria-label="Listen to">
  {#each hearing.candidates as { name, kind }, i (i)}
    <Button
      kind="tertiary"
      size="small"
      role="radio"
      aria-checked={hearing.chosen === i}
      aria-label={upper(name)}
      title={`${kind === "preset" ? "A preset that is not applied. " : kind === "version" ? "A kept state. " : ""}Key ${i + 1}${i < 2 ? "; B switches between before and after" : ""}`}
      on:click={() => hearing.choose(i)}
      ><span class="key" aria-hidden="true">{i + 1}</span> <span class="name">{upper(name)}</span></Button
    >
  {/each}
</div>
<Disclosure label="Compare" name="Compare">
  <ComparePanel />
</Disclosure>
{#if hearing.difference}
  <span class="warn" role="status">only the difference</span>
{:else if said}<span
    class="soft number change"
    title="What the chain does to the loudness: after beside before">{change}</span
  >{/if}

<style>
  .switch {
    display: flex;
    min-width: 0;
  }

  /* With four of them their names give way. */
  .switch :global(.bx--btn) {
    flex: 0 1 auto;
    min-width: 0;
  }

  .key {
    margin-right: 5px;
    opacity: 0.75;
    font-family: var(--w-mono);
    font-size: 12px;
  }

  .name {
    overflow: hidden;
    min-width: 0;
    max-width: 86px;
    text-overflow: ellipsis;
  }

  .change {
    overflow: hidden;
    font-size: 12px;
    text-overflow: ellipsis;
    white-space: nowrap;
  }

  .warn {
    color: var(--w-madder);
    font-weight: 500;
  }
</style>
