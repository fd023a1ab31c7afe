<!-- As what it is delivered: coding, rate, channels, dither. -->
<script lang="ts">
  import { Select, SelectItem } from "carbon-components-svelte";
  import { CODINGS, type CodingName, type DeliveryRate } from "$lib/core/delivery/codings";
  import { rateOf, withCoding, type DeliverySettings } from "$lib/core/delivery/settings";
  import { useEditor } from "../state/editor.svelte";
  import NumberField from "./NumberField.svelte";

  const { deliveries, sampleRate } = useEditor();
  const settings = $derived(deliveries.settings);
  const coding = $derived(CODINGS[settings.coding]);
  const khz = (rate: number) => `${rate / 1000} kHz`;
  const BITS = { int16: "16 bit", int24: "24 bit", float32: "32 bit float" } as const;
  const variable = $derived(coding.quality !== null && settings.mode === "variable");
  const rounds = $derived(coding.bits.length > 0 && settings.bits !== "float32");
</script>

<div class="fields">
  <Select
    size="xs"
    labelText="Format"
    selected={settings.coding}
    on:update={({ detail }) => deliveries.change(withCoding(settings, detail as CodingName))}
  >
    {#each Object.entries(CODINGS) as [name, { name: text }] (name)}<SelectItem value={name} {text} />{/each}
  </Select>
  {#if coding.bits.length > 0}
    <Select
      size="xs"
      labelText="Samples"
      selected={settings.bits}
      on:update={({ detail }) => deliveries.change({ bits: detail as DeliverySettings["bits"] })}
    >
      {#each coding.bits as bits (bits)}<SelectItem value={bits} text={BITS[bits]} />{/each}
    </Select>
  {/if}
  {#if coding.kbps && coding.quality}
    <Select
      size="xs"
      labelText="Rate of bits"
      selected={settings.mode}
      on:update={({ detail }) => deliveries.change({ mode: detail as DeliverySettings["mode"] })}
    >
      <SelectItem value="constant" text="constant" />
      <SelectItem value="variable" text="variable, by quality" />
    </Select>
  {/if}
  {#if coding.kbps && !variable}
    <NumberField
      label="Bits a second"
      unit="kbit/s"
      min={coding.kbps.min}
      max={coding.kbps.max}
      decimals={0}
      step={32}
      value={settings.kbps}
      standard={coding.kbps.standard}
      set={(value) => deliveries.change({ kbps: Math.round(value ?? 0) })}
    />
  {/if}
  {#if coding.quality && (variable || !coding.kbps)}
    <NumberField
      label={`Quality, ${coding.quality[coding.quality.best]} is best`}
      unit=""
      min={coding.quality.min}
      max={coding.quality.max}
      decimals={0}
      step={1}
      value={settings.quality}
      standard={coding.quality.standard}
      set={(value) => deliveries.change({ quality: Math.round(value ?? 0) })}
    />
  {/if}
  <Select
    size="xs"
    labelText="Sample rate"
    selected={settings.sampleRate === null ? "project" : String(settings.sampleRate)}
    on:update={({ detail }) =>
      deliveries.change({
        sampleRate: detail === "project" ? null : (Number(detail) as DeliveryRate)
      })}
  >
    <SelectItem
      value="project"
      text={`as the project, ${khz(rateOf({ ...settings, sampleRate: null }, sampleRate))}`}
    />
    {#each coding.rates as rate (rate)}<SelectItem value={String(rate)} text={khz(rate)} />{/each}
  </Select>
  <Select
    size="xs"
    labelText="Channels"
    selected={settings.channels}
    on:update={({ detail }) => deliveries.change({ channels: detail as DeliverySettings["channels"] })}
  >
    <SelectItem value="stereo" text="stereo" />
    <SelectItem value="mono" text="mono" />
    <SelectItem value="dual-mono" text="mono on both sides" />
  </Select>
  {#if rounds}
    <Select
      size="xs"
      labelText="Dither"
      selected={settings.dither}
      on:update={({ detail }) => deliveries.change({ dither: detail as DeliverySettings["dither"] })}
    >
      <SelectItem value="triangular" text="triangular, ±1 step" />
      <SelectItem value="shaped" text="noise-shaped (16 bit, 44.1 and 48 kHz)" />
      <SelectItem value="none" text="none" />
    </Select>
  {/if}
</div>

<style>
  .fields {
    display: grid;
    grid-template-columns: repeat(5, minmax(0, 1fr));
    gap: 10px 12px;
    align-items: start;
  }
</style>
