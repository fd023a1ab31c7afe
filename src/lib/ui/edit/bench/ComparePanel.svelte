<!-- The candidates with their levels, what else is to be compared, and how. -->
<script lang="ts">
  import { Button, Checkbox, Select, SelectItem } from "carbon-components-svelte";
  import Close from "carbon-icons-svelte/lib/Close.svelte";
  import { formatDb } from "$lib/core/units/decibels";
  import { useEditor } from "../../state/editor.svelte";
  import { MOST_CANDIDATES } from "../../state/hearing.svelte";

  const editor = useEditor();
  const { hearing, presets } = editor;
  const full = $derived(hearing.candidates.length >= MOST_CANDIDATES);
  const gains = $derived(hearing.gains);
  const value = (x: number | undefined, digits = 1) => (x === undefined ? "…" : formatDb(x, digits));
  const signed = (x: number | undefined) =>
    x === undefined || !Number.isFinite(x) ? "" : formatDb(x, 1, true);
  let chosen = $state("");

  function add(id: string): void {
    const preset = presets.list.find((one) => one.id === id);
    if (preset) hearing.add(preset);
    chosen = "";
  }
</script>

<div class="compare">
  <table>
    <caption class="visually-hidden">Candidates and how they differ from after</caption>
    <thead>
      <tr>
        <th scope="col">key</th><th scope="col">candidate</th><th scope="col">LUFS</th><th scope="col">LU</th>
        <th scope="col">dBTP</th><th scope="col">floor</th><th scope="col">heard at</th><th scope="col"
          ><span class="visually-hidden">take away</span></th
        >
      </tr>
    </thead>
    <tbody>
      {#each hearing.candidates as { name, kind, levels }, i (i)}
        {@const difference = hearing.differences(levels)}
        <tr class:heard={hearing.chosen === i}>
          <td class="number">{i + 1}</td>
          <th scope="row">{name}</th>
          <td class="number">{value(levels?.integratedLufs)}</td>
          <td class="number">{kind === "after" ? "" : signed(difference?.integratedLufs)}</td>
          <td class="number">{value(levels?.truePeakDbtp)}</td>
          <td class="number">{value(levels?.noiseFloorDbfs, 0)}</td>
          <td class="number">{hearing.equalLoudness ? `${formatDb(gains[i] ?? 0, 1, true)} dB` : "0.0 dB"}</td
          >
          <td>
            {#if kind === "version" || kind === "preset"}
              <button
                class="bx--btn bx--btn--ghost bx--btn--sm bx--btn--icon-only"
                aria-label="Take {name} away"
                title="Take it away"
                onclick={() => hearing.remove(i)}><Close size={16} /></button
              >
            {/if}
          </td>
        </tr>
      {/each}
    </tbody>
  </table>
  <div class="row">
    <Button kind="tertiary" size="small" disabled={full} title="Alt K" on:click={() => hearing.keep()}
      >Keep the present state</Button
    >
    <Select
      size="xs"
      hideLabel
      labelText="Compare with a preset"
      disabled={full || presets.list.length === 0}
      selected={chosen}
      on:update={({ detail }) => detail !== "" && add(String(detail))}
    >
      <SelectItem
        value=""
        text={presets.list.length === 0 ? "no chain is saved yet" : "compare with a preset…"}
      />
      {#each presets.list as preset (preset.id)}<SelectItem value={preset.id} text={preset.name} />{/each}
    </Select>
  </div>
  <Checkbox
    labelText="Equal loudness: candidates as loud as after (Q)"
    bind:checked={hearing.equalLoudness}
  />
  <Checkbox
    labelText="Only the difference: after minus before, alone (Alt Q)"
    bind:checked={hearing.difference}
  />
  {#if full}<p class="soft">{MOST_CANDIDATES} are the most.</p>{/if}
</div>

<style>
  .compare {
    display: grid;
    gap: 6px;
    width: 440px;
    padding: 8px;
    font-size: 12px;
  }

  table {
    border-collapse: collapse;
  }

  th,
  td {
    padding: 2px 6px 2px 0;
    border-bottom: 1px solid var(--w-rule);
    text-align: right;
    white-space: nowrap;
  }

  thead th {
    color: var(--w-soft);
    font-weight: 400;
  }

  tbody th,
  thead th:nth-child(2) {
    overflow: hidden;
    max-width: 110px;
    font-weight: 500;
    text-align: left;
    text-overflow: ellipsis;
  }

  .heard {
    background: var(--w-select);
    --w-soft: var(--w-ink);
  }

  .row {
    display: flex;
    gap: 8px;
  }

  .row :global(.bx--select) {
    flex: 1;
  }

  p {
    margin: 0;
  }
</style>
