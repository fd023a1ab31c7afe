<!-- How time is written, and the lengths that keys and cuts use. -->
<script lang="ts">
  import { TIMECODES } from "$lib/core/units/timecode";
  import { TIME_KINDS, type TimeFormat } from "$lib/core/units/timeFormat";
  import Disclosure from "../../shared/Disclosure.svelte";
  import Picker from "../../shared/Picker.svelte";
  import TypedField from "../../shared/TypedField.svelte";
  import { useEditor } from "../../state/editor.svelte";
  import { BLEND_MOST_MS, NUDGE_MOST_MS } from "../../state/preferences.svelte";

  const { preferences } = useEditor();
  const KINDS: Record<TimeFormat["kind"], string> = {
    clock: "h:m:s.ms",
    samples: "samples",
    timecode: "timecode",
    bars: "bars and beats"
  };
  const FORMATS = TIME_KINDS.map((id) => ({ id, name: KINDS[id] }));
  const CODES = TIMECODES.map((id) => ({ id, name: id }));
  const { time } = $derived(preferences);
  const label = $derived(
    time.kind === "timecode"
      ? `timecode ${time.timecode}`
      : time.kind === "bars"
        ? `bars at ${time.tempo}`
        : KINDS[time.kind]
  );

  function set(change: Partial<TimeFormat>): void {
    preferences.time = { ...time, ...change };
  }

  function number(text: string, least: number, most: number): number | undefined {
    const value = Number(text.replace(",", ".").replace(/[^\d.]+$/, ""));
    return Number.isFinite(value) && value >= least && value <= most && text.trim() !== ""
      ? value
      : undefined;
  }

  function put(text: string, least: number, most: number, take: (value: number) => void): boolean {
    const value = number(text, least, most);
    if (value !== undefined) take(value);
    return value !== undefined;
  }
</script>

<Disclosure {label} name="How time is written">
  <div class="fields">
    <Picker label="Time" items={FORMATS} value={time.kind} choose={(kind) => set({ kind })} />
    {#if time.kind === "timecode"}
      <Picker
        label="Frames a second"
        items={CODES}
        value={time.timecode}
        choose={(timecode) => set({ timecode })}
      />
    {:else if time.kind === "bars"}
      <span class="field"
        >Tempo <TypedField
          label="Tempo"
          takes="20 to 400 beats a minute"
          text={String(time.tempo)}
          width="64px"
          commit={(text) => put(text, 20, 400, (tempo) => set({ tempo }))}
        /></span
      >
      <span class="field"
        >Beats of a bar <TypedField
          label="Beats of a bar"
          takes="1 to 16"
          text={String(time.beats)}
          width="64px"
          commit={(text) => put(text, 1, 16, (beats) => set({ beats: Math.round(beats) }))}
        /></span
      >
    {/if}
    <span class="field"
      >Nudge by <TypedField
        label="Nudge by"
        takes="more than 0, up to 60000 ms"
        text="{preferences.nudgeMs} ms"
        width="74px"
        commit={(text) => put(text, 0.01, NUDGE_MOST_MS, (ms) => (preferences.nudgeMs = ms))}
      /></span
    >
    <span class="field"
      >Blend at cuts <TypedField
        label="Blend at cuts"
        takes="0 to 500 ms"
        text="{preferences.blendMs} ms"
        width="74px"
        commit={(text) => put(text, 0, BLEND_MOST_MS, (ms) => (preferences.blendMs = ms))}
      /></span
    >
    <span class="field"
      >New crossfades <TypedField
        label="Length of new crossfades"
        takes="more than 0, up to 10000 ms"
        text="{preferences.crossMs} ms"
        width="74px"
        commit={(text) => put(text, 0.1, 10000, (ms) => (preferences.crossMs = ms))}
      /></span
    >
  </div>
</Disclosure>

<style>
  .fields {
    display: grid;
    gap: 8px;
    padding: 10px 12px;
  }

  .field {
    display: flex;
    align-items: center;
    justify-content: space-between;
    gap: 8px;
  }
</style>
