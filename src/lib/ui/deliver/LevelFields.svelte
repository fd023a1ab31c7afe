<!-- Level on the way out, and what is done at the ends. -->
<script lang="ts">
  import { Select, SelectItem } from "carbon-components-svelte";
  import { CODINGS } from "$lib/core/delivery/codings";
  import type { DeliverySettings } from "$lib/core/delivery/settings";
  import { useEditor } from "../state/editor.svelte";
  import NumberField from "./NumberField.svelte";

  const { deliveries } = useEditor();
  const settings = $derived(deliveries.settings);
  const UNITS = { integrated: "LUFS", "true-peak": "dBTP", peak: "dBFS" } as const;
  const STANDARD = { integrated: -16, "true-peak": -1, peak: -1 } as const;
  type Of = keyof typeof UNITS;
  const lossy = $derived(CODINGS[settings.coding].lossy);

  function choose(of: string): void {
    const level: DeliverySettings["level"] = of === "none" ? null : { of: of as Of, to: STANDARD[of as Of] };
    deliveries.change({ level });
  }
</script>

<div class="fields">
  <Select
    size="xs"
    labelText="Bring to"
    selected={settings.level?.of ?? "none"}
    on:update={({ detail }) => detail !== (settings.level?.of ?? "none") && choose(String(detail))}
  >
    <SelectItem value="none" text="no level: as it is" />
    <SelectItem value="integrated" text="integrated loudness" />
    <SelectItem value="true-peak" text="true peak" />
    <SelectItem value="peak" text="sample peak" />
  </Select>
  {#if settings.level}
    {@const { of, to } = settings.level}
    <NumberField
      label="Level"
      unit={UNITS[of]}
      min={-70}
      max={0}
      value={to}
      standard={STANDARD[of]}
      set={(value) => deliveries.change({ level: { of, to: value ?? to } })}
    />
  {/if}
  <NumberField
    label="Ceiling"
    unit="dBTP"
    min={-40}
    max={0}
    off="off"
    value={settings.ceilingDbtp}
    standard={-1}
    help="The true peak that the written file does not pass; measured after coding"
    set={(ceilingDbtp) => deliveries.change({ ceilingDbtp })}
  />
</div>
<p class="soft">
  {settings.ceilingDbtp === null
    ? "One gain for each file. Without a ceiling nothing keeps its true peak down."
    : lossy
      ? "One gain for each file. Coding raises peaks: the coded file is measured, and the gain lowered until the ceiling holds."
      : "One gain for each file, no higher than the ceiling allows. The written file is measured."}
</p>
<div class="fields ends">
  <NumberField
    label="Cut below, at ends"
    unit="dBFS"
    min={-120}
    max={-20}
    decimals={0}
    step={1}
    off="off"
    value={settings.trimBelowDb}
    standard={-60}
    help="Sound at both ends that stays below this is cut away"
    set={(trimBelowDb) => deliveries.change({ trimBelowDb })}
  />
  {#each [["fadeIn", "Fade in"], ["fadeOut", "Fade out"], ["silenceBefore", "Silence before"], ["silenceAfter", "Silence after"]] as const as [key, label] (key)}
    <NumberField
      {label}
      unit="s"
      min={0}
      max={60}
      decimals={3}
      step={0.1}
      value={settings[key]}
      standard={0}
      set={(value) => deliveries.change({ [key]: value ?? 0 })}
    />
  {/each}
</div>

<style>
  .fields {
    display: flex;
    flex-wrap: wrap;
    gap: 10px 12px;
    align-items: start;
  }

  .fields > :global(.bx--form-item) {
    flex: none;
    width: 190px;
  }

  p {
    margin: 6px 0 10px;
    font-size: 12px;
  }
</style>
