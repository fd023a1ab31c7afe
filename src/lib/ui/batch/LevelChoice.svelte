<!-- A loudness or a peak that every sound is brought to last; or none. -->
<script lang="ts">
  import { Checkbox } from "carbon-components-svelte";
  import { NORMALIZE_TARGETS, type NormalizeTarget } from "$lib/core/effects/normalize";
  import { formatDb, parseDb } from "$lib/core/units/decibels";
  import Picker from "../shared/Picker.svelte";
  import TypedField from "../shared/TypedField.svelte";
  import type { Level } from "$lib/core/session/batch";

  let { level = $bindable() }: { level: Level | null } = $props();
  const TARGETS = Object.entries(NORMALIZE_TARGETS).map(([id, { label }]) => ({
    id: id as NormalizeTarget,
    name: label
  }));
  const FIRST: Level = { target: "integrated", levelDb: -16, ceilingDb: -1 };
  const inRange = (db: number | undefined): db is number => db !== undefined && db <= 0 && db >= -60;

  function setLevel(text: string): boolean {
    const db = parseDb(text);
    if (!level || !inRange(db)) return false;
    level = { ...level, levelDb: db };
    return true;
  }

  function setCeiling(text: string): boolean {
    if (!level) return false;
    const none = /^\s*(none|off)?\s*$/i.test(text);
    const db = none ? null : parseDb(text);
    if (db !== null && !inRange(db)) return false;
    level = { ...level, ceilingDb: db };
    return true;
  }
</script>

<fieldset>
  <legend class="visually-hidden">Level</legend>
  <Checkbox
    labelText="Bring each to a level last, by one gain"
    checked={level !== null}
    on:check={({ detail }) => (level = detail ? (level ?? FIRST) : null)}
  />
  {#if level}
    <div class="row">
      <Picker
        bare
        label="Measure"
        items={TARGETS}
        value={level.target}
        choose={(target) => level && (level = { ...level, target })}
      />
      <TypedField
        label="Level"
        takes="-60 to 0"
        text="{formatDb(level.levelDb)} {NORMALIZE_TARGETS[level.target].unit}"
        width="104px"
        commit={setLevel}
      />
      <span class="over"
        ><span class="soft">never over</span>
        <TypedField
          label="Ceiling"
          takes="-60 to 0 dBTP, or none"
          text={level.ceilingDb === null ? "none" : `${formatDb(level.ceilingDb)} dBTP`}
          width="92px"
          commit={setCeiling}
        /></span
      >
    </div>
  {/if}
</fieldset>

<style>
  fieldset {
    margin: 0;
    padding: 8px 0 0;
    border: 0;
    border-top: 1px solid var(--w-rule);
  }

  .row {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 6px;
    margin-top: 6px;
    font-size: 12px;
  }

  .over {
    display: inline-flex;
    align-items: center;
    gap: 6px;
  }
</style>
