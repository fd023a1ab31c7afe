<!-- A clip's levels, untreated and treated, and normalizing to one of them. -->
<script lang="ts">
  import { DataTable, InlineLoading, Modal, Select, SelectItem, TextInput } from "carbon-components-svelte";
  import { onMount } from "svelte";
  import { formatDb } from "$lib/core/units/decibels";
  import { fillsWindow, tooShort } from "$lib/core/measure/windows";
  import type { MeasurementJson } from "$lib/core/measure/json";
  import { useEditor } from "../../state/editor.svelte";

  const editor = useEditor();
  const { session, selection, jobs } = editor;
  const clip = selection.clip;
  let jobId = $state<string | undefined>();
  let target = $state<keyof MeasurementJson>("integratedLufs");
  let level = $state("-16");
  const ended = $derived(jobs.measured && jobs.measured.jobId === jobId ? jobs.measured : undefined);
  const result = $derived(ended && "result" in ended ? ended.result : undefined);
  const failed = $derived(ended && "fault" in ended ? ended.fault : undefined);

  const rows: [keyof MeasurementJson, string, string][] = [
    ["integratedLufs", "Integrated loudness", "LUFS"],
    ["shortTermMaxLufs", "Largest short-term loudness", "LUFS"],
    ["momentaryMaxLufs", "Largest momentary loudness", "LUFS"],
    ["loudnessRangeLu", "Loudness range", "LU"],
    ["truePeakDbtp", "True peak", "dBTP"],
    ["samplePeakDbfs", "Sample peak", "dBFS"],
    ["rmsDbfs", "RMS", "dBFS"]
  ];
  const others: [keyof MeasurementJson, string, string, number][] = [
    ["crestFactorDb", "Crest factor", "dB", 1],
    ["noiseFloorDbfs", "Noise floor", "dBFS", 1],
    ["clippedSamples", "Clipped samples", "", 0],
    ["dcOffset", "DC offset", "", 5]
  ];
  const targets = rows.filter(([key]) => key !== "loudnessRangeLu");
  const usual: Partial<Record<keyof MeasurementJson, string>> = {
    integratedLufs: "-16",
    shortTermMaxLufs: "-14",
    momentaryMaxLufs: "-12",
    truePeakDbtp: "-1",
    samplePeakDbfs: "-1",
    rmsDbfs: "-20"
  };

  onMount(async () => {
    if (clip) jobId = await jobs.start({ kind: "measure", clipId: clip.id });
    if (jobId === undefined) editor.dialog = null;
  });

  const wanted = $derived(Number(level.replace(",", ".")));
  const now = $derived(result?.treated[target] ?? null);
  const change = $derived(now === null ? undefined : wanted - now);
  const gain = $derived(clip && change !== undefined ? clip.gainDb + change : undefined);
  const peak = $derived(
    result?.treated.truePeakDbtp === null || change === undefined || !result
      ? undefined
      : result.treated.truePeakDbtp + change
  );
  const fault = $derived.by(() => {
    if (level.trim() === "" || !Number.isFinite(wanted)) return "Type a level in decibels.";
    if (!result) return "";
    if (now === null) return "This clip is silent by that measure, so no gain brings it to a level.";
    if (gain !== undefined && (gain > 48 || gain < -96))
      return `That would need a clip gain of ${formatDb(gain, 1, true)} dB; +48 dB is the most.`;
    return "";
  });

  const seconds = (clip?.length ?? 0) / editor.sampleRate;
  const shown = (value: number | null | undefined, key: keyof MeasurementJson, decimals: number) =>
    fillsWindow(key, seconds) ? formatDb(value ?? -Infinity, decimals) : "–";

  const table = $derived(
    result
      ? [...rows.map(([id, name, unit]) => ({ id, name, unit, decimals: 1 }))]
          .concat(others.map(([id, name, unit, decimals]) => ({ id, name, unit, decimals })))
          .map(({ decimals, ...row }) => ({
            ...row,
            untreated: shown(result.untreated[row.id], row.id, decimals),
            treated: shown(result.treated[row.id], row.id, decimals)
          }))
      : []
  );

  function normalize(): void {
    if (!clip || gain === undefined || fault) return;
    const [, name, unit] = rows.find(([key]) => key === target) ?? ["", "", ""];
    session.run({
      type: "clip.normalize",
      clipId: clip.id,
      gainDb: Math.round(gain * 10000) / 10000,
      target: `${formatDb(wanted)} ${unit} ${name.toLowerCase()}`.slice(0, 60)
    });
    editor.dialog = null;
  }
</script>

<Modal
  open
  size="sm"
  modalHeading={`Levels of ${clip?.name ?? ""}`}
  primaryButtonText="Normalize"
  secondaryButtonText="Close"
  primaryButtonDisabled={!result || fault !== ""}
  on:submit={normalize}
  on:close={() => (editor.dialog = null)}
  on:click:button--secondary={() => (editor.dialog = null)}
>
  {#if failed}
    <p role="alert" class="warn">{failed}</p>
  {:else if !result}
    <InlineLoading description="Measuring the clip…" />
  {:else}
    <DataTable
      size="compact"
      headers={[
        { key: "name", value: "Measure" },
        { key: "untreated", value: "Recording" },
        { key: "treated", value: "Treated" },
        { key: "unit", value: "Unit" }
      ]}
      rows={table}
    >
      <svelte:fragment slot="cell" let:cell>
        <span class:number={cell.key !== "name"}>{cell.value}</span>
      </svelte:fragment>
    </DataTable>
    <p class="soft small">
      ITU-R BS.1770 and EBU R 128, as heard in the stereo mix. Treated: with chain, gain and fades. Noise
      floor: RMS of the quietest 400 ms. True peak by annex 2's filter: {formatDb(
        result.treated.truePeakAnnex2Dbtp ?? -Infinity
      )} dBTP. {tooShort(seconds) ?? ""}
    </p>
    <div class="normalize">
      <Select
        size="xs"
        labelText="Measure to normalize to"
        bind:selected={target}
        on:update={() => (level = usual[target] ?? level)}
      >
        {#each targets as [key, name] (key)}<SelectItem value={key} text={name} />{/each}
      </Select>
      <span class="level"
        ><TextInput
          size="xs"
          labelText="Level to normalize to"
          bind:value={level}
          aria-invalid={fault !== ""}
        /></span
      >
      <span class="soft">{rows.find(([key]) => key === target)?.[2]}</span>
    </div>
    <p role="status" class:warn={fault !== "" || (peak !== undefined && peak > 0)}>
      {#if fault}{fault}{:else if change !== undefined && peak !== undefined}
        Changes the clip's gain by {formatDb(change, 2, true)} dB; its true peak will be {formatDb(peak, 1)} dBTP{peak >
        0
          ? ": above full scale, add a limiter first."
          : "."}
      {/if}
    </p>
  {/if}
</Modal>

<style>
  .small {
    margin: 8px 0 14px;
    font-size: 12px;
  }

  .normalize {
    display: flex;
    align-items: end;
    gap: 8px;
  }

  .level {
    width: 130px;
  }

  .warn {
    color: var(--w-madder);
  }
</style>
