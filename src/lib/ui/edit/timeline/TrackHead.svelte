<!-- A track's head: name, mute, solo, gain, pan, its chain, and a menu for the rest. Buttons are plain ones in Carbon's clothes: there are many. -->
<script lang="ts">
  import Flow from "carbon-icons-svelte/lib/Flow.svelte";
  import OverflowMenuVertical from "carbon-icons-svelte/lib/OverflowMenuVertical.svelte";
  import { stepsOfOwner } from "$lib/core/session/owners";
  import type { Track } from "$lib/core/session/schema";
  import { formatDb, parseDb } from "$lib/core/units/decibels";
  import { panText, parsePan } from "$lib/core/units/pan";
  import TypedField from "../../shared/TypedField.svelte";
  import Splitter from "../../shared/Splitter.svelte";
  import { useEditor } from "../../state/editor.svelte";
  import { LANE_LEAST, LANE_MOST, LANES } from "../../state/layout.svelte";
  import { LEAST_OF_TWO_LINES } from "./layout";
  import TrackMeter from "./TrackMeter.svelte";

  let { track, height }: { track: Track; height: number } = $props();
  const editor = useEditor();
  const { session, selection, layout } = editor;

  const owner = $derived({ table: "tracks" as const, id: track.id });
  const steps = $derived(stepsOfOwner(session.shown, owner).length);

  type Settings = Partial<Pick<Track, "name" | "gainDb" | "pan" | "muted" | "solo">>;

  function set(change: Settings): boolean {
    return session.run({ type: "track.set", trackId: track.id, ...change });
  }

  function setGain(text: string): boolean {
    const value = parseDb(text);
    return value !== undefined && value >= -96 && value <= 48 && set({ gainDb: value });
  }

  function setPan(text: string): boolean {
    const pan = parsePan(text);
    return pan !== undefined && set({ pan });
  }

  const clamp = (v: number, low: number, high: number) => Math.min(high, Math.max(low, v));
  const offer = (event: MouseEvent) => editor.offer(event, "track", `Track ${track.name}`, owner);
</script>

<div
  class="head"
  class:low={height < LEAST_OF_TWO_LINES}
  id="head-{track.id}"
  style:height="{height}px"
  role="group"
  aria-label="Track {track.name}"
  oncontextmenu={offer}
>
  <div class="line first">
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
      class="bx--btn bx--btn--ghost bx--btn--sm chain"
      aria-pressed={selection.isSubject(owner)}
      aria-label="Chain of {track.name}, {steps} step{steps === 1 ? '' : 's'}"
      title="Put the track's chain on the bench"
      onclick={() => selection.chooseOwner(owner)}>{steps > 0 ? steps : ""}<Flow size={16} /></button
    >
    <button
      class="bx--btn bx--btn--ghost bx--btn--sm bx--btn--icon-only menu"
      aria-label="More for {track.name}"
      aria-haspopup="menu"
      title="More: heights, waveforms, remove"
      onclick={offer}><OverflowMenuVertical size={16} /></button
    >
  </div>
  <div class="line second">
    <button
      class="bx--btn bx--btn--tertiary bx--btn--sm letter"
      aria-pressed={track.muted}
      aria-label="Mute {track.name}"
      title="Mute"
      onclick={() => set({ muted: !track.muted })}>M</button
    >
    <button
      class="bx--btn bx--btn--tertiary bx--btn--sm letter"
      aria-pressed={track.solo}
      aria-label="Solo {track.name}"
      title="Solo"
      onclick={() => set({ solo: !track.solo })}>S</button
    >
    <span class="values">
      <TypedField
        label="Gain of {track.name} in dB"
        takes="-96 to 48 dB"
        title="Gain in dB: type it, arrow keys change it, double click is 0"
        text={`${formatDb(track.gainDb, 1, true)} dB`}
        width="66px"
        commit={setGain}
        step={(d, fine) => set({ gainDb: clamp(track.gainDb + d * (fine ? 0.1 : 0.5), -96, 48) })}
        reset={() => set({ gainDb: 0 })}
      />
      <TypedField
        label="Pan of {track.name}"
        takes="L100 to R100, or C"
        title="Pan: L100 to R100, double click is the centre"
        text={panText(track.pan)}
        width="37px"
        commit={setPan}
        step={(d, fine) =>
          set({ pan: clamp(Math.round((track.pan + d * (fine ? 0.01 : 0.1)) * 100) / 100, -1, 1) })}
        reset={() => set({ pan: 0 })}
      />
    </span>
  </div>
  <TrackMeter trackId={track.id} name={track.name} />
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
    padding: 2px 4px 2px 6px;
    border-bottom: 1px solid var(--w-rule);
    background: var(--w-panel);
  }

  .line {
    display: flex;
    align-items: center;
    gap: 2px;
    min-width: 0;
  }

  .name {
    flex: 1;
    min-width: 0;
  }

  .name :global(input.bx--text-input) {
    border-color: transparent;
    background: transparent;
    padding-inline: 2px;
    font-family: var(--w-sans);
    font-size: 13px;
    font-weight: 600;
    text-overflow: ellipsis;
  }

  .name :global(input.bx--text-input:hover),
  .name :global(input.bx--text-input:focus) {
    border-color: var(--w-rule);
  }

  .values {
    display: flex;
    gap: 2px;
    margin-left: auto;
  }

  .values :global(input.bx--text-input) {
    padding-inline: 2px;
    text-align: right;
  }

  .chain {
    gap: 2px;
    min-width: 24px;
    padding: 0 3px;
  }

  .menu {
    width: 20px;
    min-width: 20px;
  }

  .letter {
    width: 22px;
    padding: 0;
    font-weight: 500;
  }

  /* In one line: what does not fit is there when the lane is made higher. */
  .head.low {
    flex-direction: row;
    align-items: center;
    justify-content: flex-start;
  }

  .head.low .first {
    flex: 1;
  }

  .head.low .values,
  .head.low .chain {
    display: none;
  }

  .head.low .second {
    order: -1;
  }
</style>
