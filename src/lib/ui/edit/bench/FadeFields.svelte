<script lang="ts">
  import { FADE_CURVES, FADE_NAMES } from "$lib/core/audio/fades";
  import type { ResolvedClip } from "$lib/core/session/lookup";
  import { lengthOf, lengthText, takes } from "$lib/core/units/timeFormat";
  import { formatDb, parseDb } from "$lib/core/units/decibels";
  import Picker from "../../shared/Picker.svelte";
  import TypedField from "../../shared/TypedField.svelte";
  import { actionOf } from "../../state/actions";
  import { setFade } from "../../state/editing";
  import { otherCurve } from "../../state/fadeShapes";
  import { withTargets } from "../../state/arranging";
  import { useEditor } from "../../state/editor.svelte";

  let { clip }: { clip: ResolvedClip } = $props();
  const editor = useEditor();
  const { sampleRate, preferences } = editor;
  const CURVES = FADE_CURVES.map((id) => ({ id, name: FADE_NAMES[id] }));

  function length(edge: "in" | "out", text: string): boolean {
    const frames = lengthOf(text, sampleRate, preferences.time);
    if (frames === undefined) return false;
    setFade(editor, edge, { length: frames });
    return true;
  }

  function step(edge: "in" | "out", direction: 1 | -1, fine: boolean): void {
    const fade = edge === "in" ? clip.fadeIn : clip.fadeOut;
    setFade(editor, edge, { length: fade.length + direction * (fine ? 0.001 : 0.05) * sampleRate });
  }

  function setGain(text: string): boolean {
    const value = parseDb(text);
    return value !== undefined && value >= -96 && value <= 48 && gain(value);
  }

  /** Of a range it is cut out first. */
  const gain = (gainDb: number) =>
    withTargets(editor, "gain of the range", (clipIds) => [{ type: "clip.set", clipIds, gainDb }]) !==
    undefined;
</script>

{#each ["in", "out"] as const as edge (edge)}
  {@const fade = edge === "in" ? clip.fadeIn : clip.fadeOut}
  <span class="group">
    <span class="soft">fade {edge}</span>
    <TypedField
      label="Fade {edge} length"
      takes={takes(preferences.time)}
      title="Length: 250 ms, 1.5 s; double click removes it"
      text={lengthText(fade.length, sampleRate, preferences.time)}
      width="70px"
      commit={(text) => length(edge, text)}
      step={(d, fine) => step(edge, d, fine)}
      reset={() => setFade(editor, edge, { length: 0 })}
    />
    <Picker
      bare
      label="Fade {edge} curve"
      items={CURVES}
      value={fade.shape.curve}
      choose={(curve) => setFade(editor, edge, { shape: otherCurve(fade.shape, curve) })}
    />
  </span>
{/each}
<button
  class="bx--btn bx--btn--ghost bx--btn--sm"
  aria-pressed={editor.panel === "fades"}
  onclick={() => actionOf("fadeEditor").run(editor)}>Edit fades…</button
>
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
