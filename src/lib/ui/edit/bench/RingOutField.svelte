<!-- Whether the selected clips ring out after their end, and how long. -->
<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import { ringFrames, RING_MOST_SECONDS } from "$lib/core/render/ringOut";
  import { resolveClip } from "$lib/core/session/lookup";
  import type { RingOut } from "$lib/core/session/schema";
  import { lengthOf, lengthText, takes } from "$lib/core/units/timeFormat";
  import Picker from "../../shared/Picker.svelte";
  import TypedField from "../../shared/TypedField.svelte";
  import { notices } from "../../shared/notices.svelte";
  import { useEditor } from "../../state/editor.svelte";
  import { measureRings } from "../../state/ringing";

  const editor = useEditor();
  const { session, selection, preferences, sampleRate } = editor;
  const WAYS = [
    { id: "off" as const, name: "ends with the clip" },
    { id: "own" as const, name: "rings out until it is quiet" },
    { id: "typed" as const, name: "rings out for" }
  ];
  type Way = (typeof WAYS)[number]["id"];
  const clip = $derived(selection.clip);
  const ringOut = $derived(clip?.ringOut ?? null);
  const way = $derived<Way>(ringOut === null ? "off" : ringOut.frames === null ? "own" : "typed");
  const rings = $derived(clip ? ringFrames(resolveClip(session.shown, clip), sampleRate) : 0);

  const set = (next: RingOut | null) =>
    session.run({ type: "clip.set", clipIds: [...selection.clipIds], ringOut: next });

  function choose(next: Way): void {
    if (next === "off") set(null);
    else if (next === "own") set({ frames: null });
    else set({ frames: rings > 0 ? rings : 2 * sampleRate });
  }

  /** Share that is measured; null: nothing is. */
  let measured = $state<number | null>(null);

  function measure(): void {
    measured = 0;
    measureRings(editor, (share) => (measured = share))
      .catch((error: unknown) => notices.fault(error))
      .finally(() => (measured = null));
  }

  function setLength(text: string): boolean {
    const frames = lengthOf(text, sampleRate, preferences.time);
    return frames !== undefined && frames <= RING_MOST_SECONDS * sampleRate && set({ frames });
  }
</script>

<span class="ring">
  <Picker bare label="After its end" items={WAYS} value={way} {choose} />
  {#if way === "typed"}
    <TypedField
      label="Length of the ring-out"
      takes="{takes(preferences.time)}, {RING_MOST_SECONDS} s at most"
      text={lengthText(rings, sampleRate, preferences.time)}
      width="86px"
      commit={setLength}
    />
  {:else if way === "own"}
    <span class="soft"
      >{rings === 0
        ? "no step of its chain rings"
        : `${lengthText(rings, sampleRate, preferences.time)}; its closing fade lies before the chain`}</span
    >
  {/if}
  {#if way !== "off" && rings > 0}
    <Button
      kind="ghost"
      size="small"
      disabled={measured !== null}
      title="Hears the clip and sets the time after which it stays 60 dB under its peak"
      on:click={measure}>{measured === null ? "Measure" : `${Math.round(measured * 100)} %`}</Button
    >
  {/if}
</span>

<style>
  .ring {
    display: inline-flex;
    align-items: center;
    gap: 6px;
  }
</style>
