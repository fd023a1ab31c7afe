<!-- Which side of the chain is heard, and whether at equal loudness. -->
<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import { formatDb } from "$lib/core/units/decibels";
  import { useEditor } from "../../state/editor.svelte";

  /** `change`: whether it is said what the chain does to the loudness. */
  let { change: said }: { change: boolean } = $props();
  const { analysis, transport } = useEditor();
  const gains = $derived(transport.gains);
  const sides = { before: "Before", after: "After" } as const;
  const change = $derived.by(() => {
    const [before, after] = [analysis.start?.integratedLufs, analysis.output?.integratedLufs];
    if (before === undefined || after === undefined) return "";
    if (!Number.isFinite(before) || !Number.isFinite(after)) return "";
    return `after is ${formatDb(after - before, 1, true)} LU`;
  });
</script>

<div class="switch" role="radiogroup" aria-label="Listen to">
  {#each ["before", "after"] as const as side (side)}
    <Button
      kind="tertiary"
      size="small"
      role="radio"
      aria-checked={transport.listen === side}
      title="B switches between before and after"
      on:click={() => (transport.listen = side)}>{sides[side]}</Button
    >
  {/each}
</div>
<Button
  kind="tertiary"
  size="small"
  aria-pressed={transport.equalLoudness}
  title={gains
    ? `Before ${formatDb(gains.beforeGainDb, 1, true)} dB, after ${formatDb(gains.afterGainDb, 1, true)} dB while comparing (Q)`
    : "Compare at equal loudness (Q)"}
  on:click={() => (transport.equalLoudness = !transport.equalLoudness)}>Equal loudness</Button
>
{#if said}<span class="soft number change">{change}</span>{/if}

<style>
  .switch {
    display: flex;
    flex: none;
  }

  .change {
    overflow: hidden;
    font-size: 12px;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
</style>
