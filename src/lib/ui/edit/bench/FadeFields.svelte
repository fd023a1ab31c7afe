<script lang="ts">
  import { Select, SelectItem } from "carbon-components-svelte";
  import { FADE_CURVES, FADE_NAMES, type FadeCurve } from "$lib/core/audio/fades";
  import type { ResolvedClip } from "$lib/core/session/lookup";
  import { parseTime } from "$lib/core/units/time";
  import { formatDb, parseDb } from "$lib/core/units/decibels";
  import TypedField from "../../shared/TypedField.svelte";
  import { setFade } from "../../state/editing";
  import { useEditor } from "../../state/editor.svelte";

  let { clip }: { clip: ResolvedClip } = $props();
  const editor = useEditor();
  const { session, sampleRate, selection } = editor;

  function length(edge: "in" | "out", text: string): boolean {
    const seconds = parseTime(text);
    if (seconds === undefined || seconds < 0) return false;
    const fade = edge === "in" ? clip.fadeIn : clip.fadeOut;
    setFade(editor, edge, seconds * sampleRate, fade.shape.curve);
    return true;
  }

  function step(edge: "in" | "out", direction: 1 | -1, fine: boolean): void {
    const fade = edge === "in" ? clip.fadeIn : clip.fadeOut;
    setFade(editor, edge, fade.length + direction * (fine ? 0.001 : 0.05) * sampleRate, fade.shape.curve);
  }

  function setGain(text: string): boolean {
    const value = parseDb(text);
    return value !== undefined && value >= -96 && value <= 48 && gain(value);
  }

  const gain = (gainDb: number) => session.run({ type: "clip.set", clipIds: [...selection.clipIds], gainDb });
</script>

{#each ["in", "out"] as const as edge (edge)}
  {@const fade = edge === "in" ? clip.fadeIn : clip.fadeOut}
  <span class="group">
    <span class="soft">fade {edge}</span>
    <TypedField
      label="Fade {edge} length"
      takes="a time of 0 or more, as 250 ms or 1.5 s"
      title="Length: 250 ms, 1.5 s; double click removes it"
      text={`${(fade.length / sampleRate).toFixed(3)} s`}
      width="70px"
      commit={(text) => length(edge, text)}
      step={(d, fine) => step(edge, d, fine)}
      reset={() => setFade(editor, edge, 0, fade.shape.curve)}
    />
    <Select
      inline
      size="xs"
      hideLabel
      labelText="Fade {edge} curve"
      selected={fade.shape.curve}
      on:update={({ detail }) =>
        detail !== fade.shape.curve && setFade(editor, edge, fade.length, detail as FadeCurve)}
    >
      {#each FADE_CURVES as curve (curve)}<SelectItem value={curve} text={FADE_NAMES[curve]} />{/each}
    </Select>
  </span>
{/each}
<span class="group">
  <span class="soft">gain</span>
  <TypedField
    label="Clip gain"
    takes="-96 to 48 dB"
    title="Gain after the chain, in dB"
    text={`${formatDb(clip.gainDb, 1, true)} dB`}
    width="72px"
    commit={setGain}
    step={(d, fine) =>
      gain(Math.max(-96, Math.min(48, Math.round((clip.gainDb + d * (fine ? 0.1 : 0.5)) * 10) / 10)))}
    reset={() => gain(0)}
  />
</span>

<style>
  .group {
    display: inline-flex;
    align-items: center;
    gap: 4px;
    font-size: 12px;
    white-space: nowrap;
  }
</style>
