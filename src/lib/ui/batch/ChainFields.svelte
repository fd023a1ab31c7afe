<!-- The steps of a batch: from a preset, seen and changed before it starts. -->
<script lang="ts">
  import { Button, Checkbox, Select, SelectItem } from "carbon-components-svelte";
  import ArrowDown from "carbon-icons-svelte/lib/ArrowDown.svelte";
  import ArrowUp from "carbon-icons-svelte/lib/ArrowUp.svelte";
  import TrashCan from "carbon-icons-svelte/lib/TrashCan.svelte";
  import { completeParams, effectOf, effects, findEffect } from "$lib/core/effects/registry";
  import ParamField from "../edit/bench/ParamField.svelte";
  import { useEditor } from "../state/editor.svelte";
  import { stepText } from "../state/presetRows";
  import type { BatchChain } from "./chain.svelte";

  let { chain }: { chain: BatchChain } = $props();
  const { presets } = useEditor();
  let open = $state<number | null>(null);
  const step = $derived(open === null ? undefined : chain.steps[open]);
  const usable = effects.filter((effect) => !effect.clipOnly).sort((a, b) => a.name.localeCompare(b.name));

  function take(id: string): void {
    const preset = presets.list.find((one) => one.id === id);
    if (!preset || id === chain.presetId) return;
    chain.take(preset);
    open = null;
  }

  function move(index: number, by: 1 | -1): void {
    const to = chain.move(index, by);
    if (open === index) open = to;
  }
</script>

<Select
  size="sm"
  labelText="Preset"
  selected={chain.presetId}
  on:change={(event) => event.target instanceof HTMLSelectElement && take(event.target.value)}
>
  <SelectItem value="" text="choose a chain…" disabled hidden />
  {#each presets.list as preset (preset.id)}<SelectItem value={preset.id} text={preset.name} />{/each}
</Select>
<ol aria-label="Steps of the batch">
  {#each chain.steps as one, i (i)}
    <li class:open={open === i}>
      <Checkbox
        hideLabel
        labelText="{stepText(one.effect, one.params)}: on"
        checked={one.on}
        on:check={({ detail }) => detail !== one.on && chain.switch(i)}
      />
      <button
        class="text"
        class:off={!one.on}
        aria-expanded={open === i}
        title="Its settings"
        onclick={() => (open = open === i ? null : i)}>{i + 1} {stepText(one.effect, one.params)}</button
      >
      <Button
        kind="ghost"
        size="small"
        icon={ArrowUp}
        iconDescription="Earlier: step {i + 1}"
        disabled={i === 0}
        on:click={() => move(i, -1)}
      />
      <Button
        kind="ghost"
        size="small"
        icon={ArrowDown}
        iconDescription="Later: step {i + 1}"
        disabled={i === chain.steps.length - 1}
        on:click={() => move(i, 1)}
      />
      <Button
        kind="ghost"
        size="small"
        icon={TrashCan}
        iconDescription="Remove step {i + 1}"
        on:click={() => {
          chain.remove(i);
          open = null;
        }}
      />
    </li>
    {#if open === i && step && findEffect(step.effect)}
      {@const effect = effectOf(step.effect)}
      {@const params = completeParams(effect, step.params)}
      <li class="fields" aria-label="Settings of {effect.name}">
        {#each effect.params.filter(({ hidden, kind }) => !hidden && kind !== "data") as param (param.id)}
          <ParamField
            {param}
            value={params[param.id]}
            draft={(value) => chain.set(i, { [param.id]: value })}
            commit={(value) => {
              chain.set(i, { [param.id]: value });
              return true;
            }}
          />
        {/each}
      </li>
    {/if}
  {:else}
    <li class="soft none">No steps yet: choose a preset, or add effects one by one.</li>
  {/each}
</ol>
<Select
  size="sm"
  labelText="Add an effect"
  selected=""
  on:change={(event) => {
    if (!(event.target instanceof HTMLSelectElement) || event.target.value === "") return;
    chain.add(event.target.value);
    open = chain.steps.length - 1;
    event.target.value = "";
  }}
>
  <SelectItem value="" text="choose…" />
  {#each usable as effect (effect.id)}<SelectItem value={effect.id} text={effect.name} />{/each}
</Select>

<style>
  ol {
    margin: 0;
    padding: 0;
    border: 1px solid var(--w-rule);
    list-style: none;
  }

  li {
    display: flex;
    align-items: center;
    gap: 2px;
    min-height: 32px;
    padding: 0 2px 0 6px;
    border-bottom: 1px solid var(--w-rule);
    font-size: 13px;
  }

  li:last-child {
    border-bottom: 0;
  }

  li > :global(.bx--form-item) {
    flex: none;
  }

  .text {
    flex: 1;
    min-width: 0;
    padding: 4px 0;
    overflow: hidden;
    border: 0;
    background: none;
    color: inherit;
    font: inherit;
    text-align: left;
    text-overflow: ellipsis;
    white-space: nowrap;
    cursor: pointer;
  }

  .open {
    background: var(--w-select);
  }

  .off {
    color: var(--w-soft);
    text-decoration: line-through;
  }

  .fields {
    display: grid;
    gap: 2px;
    padding: 6px 12px 8px 10px;
    background: var(--w-paper);
  }

  .none {
    padding: 8px;
  }
</style>
