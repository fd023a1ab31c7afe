<!-- How one listens: the monitor's level, the ear guard, the rolls of a preview. -->
<script lang="ts">
  import { Checkbox } from "carbon-components-svelte";
  import { formatDb, parseDb } from "$lib/core/units/decibels";
  import Disclosure from "../shared/Disclosure.svelte";
  import TypedField from "../shared/TypedField.svelte";
  import { useEditor } from "../state/editor.svelte";
  import {
    GUARD_LEAST_LU,
    GUARD_MOST_LU,
    MONITOR_LEAST_DB,
    MONITOR_MOST_DB,
    ROLL_MOST_SECONDS
  } from "../state/monitoring.svelte";

  const editor = useEditor();
  const { monitoring, transport } = editor;
  const level = $derived(`${formatDb(monitoring.gainDb, 1, true)} dB`);

  /** A typed number with or without its unit; undefined when it is none. */
  function typed(text: string, unit: string): number | undefined {
    const match = /^\s*([+-]?\d*[.,]?\d+)\s*(\D*)$/.exec(text);
    const rest = match?.[2]?.trim().toLowerCase();
    return match && (rest === "" || rest === unit) ? Number(match[1]?.replace(",", ".")) : undefined;
  }

  function within(
    value: number | undefined,
    least: number,
    most: number,
    set: (value: number) => void
  ): boolean {
    if (value === undefined || !(value >= least && value <= most)) return false;
    set(value);
    return true;
  }

  const setLevel = (value: number | undefined) =>
    within(value, MONITOR_LEAST_DB, MONITOR_MOST_DB, (gain) => (monitoring.gainDb = gain));
  const setGuard = (value: number | undefined) =>
    within(value, GUARD_LEAST_LU, GUARD_MOST_LU, (lu) => (monitoring.guardLu = lu));
  const ROLLS = [
    { id: "preRoll", name: "Preview begins earlier by" },
    { id: "postRoll", name: "Preview ends later by" }
  ] as const;
</script>

{#if transport.easedDb <= -0.5}
  <span
    class="eased"
    role="status"
    title="The switch would have jumped: the monitor comes up slowly. A render does not hear it."
    >ear guard {formatDb(transport.easedDb, 0)} dB</span
  >
{/if}
{#if transport.load > 0}
  <button
    class="soft number load"
    class:much={transport.load > 0.7}
    title="Share of one processor core that all live treatment takes, measured while it plays. Press to render what costs most."
    onclick={() => (editor.dialog = "dearest")}
    >{Math.max(1, Math.round(transport.load * 100))} %<span class="visually-hidden">
      of a core for live treatment: render what costs most</span
    ></button
  >
{/if}
<Disclosure label={monitoring.gainDb === 0 ? "monitor" : `monitor ${level}`} name="Monitor">
  <div class="fields">
    <span>Level</span>
    <TypedField
      label="Level of the monitor"
      takes="{MONITOR_LEAST_DB} to {MONITOR_MOST_DB} dB"
      title="Of what you hear alone: it changes nothing in the project. Double click is 0"
      text={level}
      width="82px"
      commit={(text) => setLevel(parseDb(text))}
      step={(direction, fine) => setLevel(monitoring.gainDb + direction * (fine ? 0.1 : 1))}
      reset={() => setLevel(0)}
    />
    <Checkbox labelText="Ear guard: a switch rises by at most" bind:checked={monitoring.guarded} />
    <TypedField
      label="Rise that the ear guard allows at once"
      takes="{GUARD_LEAST_LU} to {GUARD_MOST_LU} LU"
      title="What would jump farther comes up slowly. Double click is 6 LU"
      text={`${formatDb(monitoring.guardLu)} LU`}
      width="82px"
      commit={(text) => setGuard(typed(text, "lu"))}
      step={(direction) => setGuard(monitoring.guardLu + direction)}
      reset={() => setGuard(6)}
    />
    {#each ROLLS as { id, name } (id)}
      <span>{name}</span>
      <TypedField
        label={name}
        takes="0 to {ROLL_MOST_SECONDS} s"
        text={`${monitoring[id].toFixed(1)} s`}
        width="82px"
        commit={(text) => within(typed(text, "s"), 0, ROLL_MOST_SECONDS, (s) => (monitoring[id] = s))}
        step={(direction) =>
          within(monitoring[id] + direction * 0.5, 0, ROLL_MOST_SECONDS, (s) => (monitoring[id] = s))}
        reset={() => (monitoring[id] = 0) === 0}
      />
    {/each}
  </div>
</Disclosure>

<style>
  .eased {
    color: var(--w-madder);
    font-size: 12px;
    font-weight: 500;
    white-space: nowrap;
  }

  .load {
    padding: 2px 4px;
    border: 0;
    background: none;
    font-size: 12px;
    cursor: pointer;
    white-space: nowrap;
  }

  .much {
    color: var(--w-madder);
    font-weight: 600;
  }

  .fields {
    display: grid;
    grid-template-columns: auto auto;
    align-items: center;
    gap: 6px 12px;
    padding: 8px;
    font-size: 12px;
  }
</style>
