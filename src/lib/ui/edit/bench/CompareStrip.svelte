<!-- The clip before and after its chain on one time axis, and the switch between them. -->
<script lang="ts">
  import { formatDb } from "$lib/core/units/decibels";
  import { useEditor } from "../../state/editor.svelte";
  import type { Subject } from "../../state/selection.svelte";

  let { subject }: { subject: Subject } = $props();
  const { analysis, transport, selection } = useEditor();
  let width = $state(300);
  const HALF = 17;

  // Both are drawn by one factor, so that quiet sound can be seen and the difference stays true.
  const factor = $derived.by(() => {
    const top = [analysis.before, analysis.after].reduce(
      (a, p) => (p ? Array.from(p).reduce((b, v) => Math.max(b, v), a) : a),
      0.05
    );
    return 1 / top;
  });

  function path(peaks: ArrayLike<number> | null, side: 1 | -1): string {
    if (!peaks) return "";
    let d = `M0 ${HALF}`;
    for (let x = 0; x <= width; x++) {
      const from = Math.floor((x / width) * peaks.length);
      const to = Math.max(from + 1, Math.floor(((x + 1) / width) * peaks.length));
      let top = 0;
      for (let i = from; i < Math.min(to, peaks.length); i++) top = Math.max(top, peaks[i]);
      d += `L${x} ${(HALF - side * Math.min(1, top * factor) * (HALF - 1)).toFixed(1)}`;
    }
    return `${d}L${width} ${HALF}Z`;
  }

  /** Where on the picture the playhead is: a recording has no place on the timeline. */
  const playX = $derived.by(() => {
    const { clip, owner } = subject;
    if (clip) return ((transport.position - clip.start) / clip.length) * width;
    const { range } = selection;
    if (owner.table === "recordings" || !range) return -1;
    return ((transport.position - range.from) / (range.to - range.from)) * width;
  });
  const gains = $derived(transport.gains);
</script>

<div class="strip">
  <div class="picture" bind:clientWidth={width}>
    <svg
      {width}
      height={HALF * 2}
      role="img"
      aria-label="Waveform before the chain, above, and after it, below"
    >
      <path class="before" d={path(analysis.before, 1)} />
      <path class="after" d={path(analysis.after, -1)} />
      <line x1="0" x2={width} y1={HALF} y2={HALF} />
      {#if playX >= 0 && playX <= width}<line class="head" x1={playX} x2={playX} y1="0" y2={HALF * 2} />{/if}
    </svg>
  </div>
  <div class="switch" role="radiogroup" aria-label="Listen to">
    {#each ["before", "after"] as const as side (side)}
      <button
        class="plain"
        role="radio"
        aria-checked={transport.listen === side}
        class:on={transport.listen === side}
        title="B switches between before and after"
        onclick={() => (transport.listen = side)}>{side === "before" ? "Before" : "After"}</button
      >
    {/each}
  </div>
  <button
    class="plain"
    aria-pressed={transport.equalLoudness}
    title={gains
      ? `Before ${formatDb(gains.beforeGainDb, 1, true)} dB, after ${formatDb(gains.afterGainDb, 1, true)} dB while comparing (Q)`
      : "Compare at equal loudness (Q)"}
    onclick={() => (transport.equalLoudness = !transport.equalLoudness)}>Equal loudness</button
  >
</div>

<style>
  .strip {
    display: flex;
    align-items: center;
    gap: 8px;
    flex: 1;
    min-width: 0;
  }

  .picture {
    flex: 1;
    min-width: 80px;
  }

  svg {
    display: block;
    background: var(--w-paper);
  }

  .before {
    fill: var(--w-slate);
  }

  .after {
    fill: var(--w-madder);
  }

  line {
    stroke: var(--w-rule);
  }

  .head {
    stroke: var(--w-ink);
  }

  .switch {
    display: flex;
  }

  .switch .on {
    background: var(--w-ink);
    border-color: var(--w-ink);
    color: var(--w-paper);
  }
</style>
