<script lang="ts">
  import Flow from "carbon-icons-svelte/lib/Flow.svelte";
  import TrashCan from "carbon-icons-svelte/lib/TrashCan.svelte";
  import { stepsOfOwner } from "$lib/core/session/owners";
  import type { Track } from "$lib/core/session/schema";
  import { formatDb, parseDb } from "$lib/core/units/decibels";
  import TypedField from "../../shared/TypedField.svelte";
  import Splitter from "../../shared/Splitter.svelte";
  import { useEditor } from "../../state/editor.svelte";
  import { LANE_LEAST, LANE_MOST, LANES } from "../../state/layout.svelte";
  import { LEAST_OF_TWO_LINES } from "./layout";

  let { track, height }: { track: Track; height: number } = $props();
  const { session, selection, layout } = useEditor();

  const owner = $derived({ table: "tracks" as const, id: track.id });
  const steps = $derived(stepsOfOwner(session.shown, owner).length);

  function set(change: {
    name?: string;
    gainDb?: number;
    pan?: number;
    muted?: boolean;
    solo?: boolean;
  }): boolean {
    return session.run({ type: "track.set", trackId: track.id, ...change });
  }

  function setGain(text: string): boolean {
    const value = parseDb(text);
    return value !== undefined && value >= -96 && value <= 48 && set({ gainDb: value });
  }

  function panText(pan: number): string {
    return pan === 0 ? "centre" : `${pan < 0 ? "L" : "R"} ${Math.round(Math.abs(pan) * 100)}`;
  }

  function setPan(text: string): boolean {
    const match = /^(?:(c|centre|0)|([lr])\s*(\d{1,3}))$/i.exec(text.trim());
    if (!match) return false;
    const amount = match[1] ? 0 : Number(match[3]) / 100;
    return amount <= 1 && set({ pan: match[2]?.toLowerCase() === "l" ? -amount : amount });
  }

  const clamp = (v: number, low: number, high: number) => Math.min(high, Math.max(low, v));
</script>

<div
  class="head"
  class:low={height < LEAST_OF_TWO_LINES}
  id="head-{track.id}"
  style:height="{height}px"
  role="group"
  aria-label="Track {track.name}"
>
  <div class="line">
    <span class="name"
      ><TypedField
        label="Name of track {track.name}"
        takes="1 to 120 characters"
        text={track.name}
        width="100%"
        commit={(text) => text.trim() !== "" && set({ name: text })}
      /></span
    >
    <button
      class="plain"
      aria-pressed={selection.isSubject(owner)}
      aria-label="Chain of {track.name}, {steps} step{steps === 1 ? '' : 's'}"
      title="Put the track's chain on the bench"
      onclick={() => selection.chooseOwner(owner)}><Flow size={16} />{steps > 0 ? steps : ""}</button
    >
    <button
      class="plain bare"
      aria-label="Remove track {track.name}"
      title="Remove track"
      onclick={() => session.run({ type: "track.remove", trackId: track.id })}><TrashCan size={16} /></button
    >
  </div>
  <div class="line">
    <button
      class="plain"
      aria-pressed={track.muted}
      aria-label="Mute {track.name}"
      onclick={() => set({ muted: !track.muted })}>Mute</button
    >
    <button
      class="plain"
      aria-pressed={track.solo}
      aria-label="Solo {track.name}"
      onclick={() => set({ solo: !track.solo })}>Solo</button
    >
    <TypedField
      label="Gain of {track.name} in dB"
      takes="-96 to 48 dB"
      title="Gain in dB: type it, arrow keys change it, double click is 0"
      text={`${formatDb(track.gainDb, 1, true)} dB`}
      width="68px"
      commit={setGain}
      step={(d, fine) => set({ gainDb: clamp(track.gainDb + d * (fine ? 0.1 : 0.5), -96, 48) })}
      reset={() => set({ gainDb: 0 })}
    />
    <TypedField
      label="Pan of {track.name}"
      takes="L 100 to R 100, or centre"
      title="Pan: L 100 to R 100, double click is centre"
      text={panText(track.pan)}
      width="56px"
      commit={setPan}
      step={(d, fine) =>
        set({ pan: clamp(Math.round((track.pan + d * (fine ? 0.01 : 0.1)) * 100) / 100, -1, 1) })}
      reset={() => set({ pan: 0 })}
    />
  </div>
  <Splitter
    label="Height of track {track.name}"
    controls="head-{track.id}"
    bind:size={() => height, (wanted) => layout.setLane(track.id, wanted)}
    min={LANE_LEAST}
    max={LANE_MOST}
    standard={LANES.middle}
    lower
  />
</div>

<style>
  .head {
    position: relative;
    display: flex;
    flex-direction: column;
    justify-content: center;
    gap: 2px;
    box-sizing: border-box;
    padding: 2px 6px;
    border-bottom: 1px solid var(--w-rule);
    background: var(--w-panel);
  }

  .line {
    display: flex;
    align-items: center;
    gap: 3px;
  }

  .name {
    flex: 1;
  }

  /* In one line: what does not fit is there when the lane is made higher. */
  .head.low {
    flex-direction: row;
    align-items: center;
    justify-content: flex-start;
  }

  .head.low .line:first-child {
    flex: 1;
    min-width: 0;
  }

  .head.low .line > :global(.typed),
  .head.low .line > .bare {
    display: none;
  }

  .name :global(input) {
    border-color: transparent;
    font-family: var(--w-sans);
    font-size: 13px;
    font-weight: 600;
  }

  .name :global(input:hover),
  .name :global(input:focus) {
    border-color: var(--w-rule);
  }

  .line .plain {
    min-height: 24px;
    padding: 2px 6px;
    font-size: 11px;
  }

  .line :global(.typed) {
    font-size: 11px;
  }
</style>
