<!-- The level of a track while it plays: its sample peak, from -54 dBFS up. -->
<script lang="ts">
  import { formatDb } from "$lib/core/units/decibels";
  import { useEditor } from "../../state/editor.svelte";

  let { trackId, name }: { trackId: string; name: string } = $props();
  const { transport } = useEditor();
  const LEAST = -54;
  /** Whole decibels: it need not be drawn anew for less. */
  const level = $derived(Math.round(transport.tracks[trackId] ?? -Infinity));
  const share = $derived(Math.max(0, Math.min(1, (level - LEAST) / -LEAST)));
</script>

<div
  class="meter"
  class:warm={level > -9 && level <= -1}
  class:hot={level > -1}
  role="meter"
  aria-label="Level of {name}"
  aria-valuemin={LEAST}
  aria-valuemax={0}
  aria-valuenow={Math.max(LEAST, Math.min(0, level))}
  aria-valuetext="{formatDb(level, 0)} dBFS"
  title="Sample peak while it plays, {LEAST} to 0 dBFS"
>
  <span style:transform="scaleY({share})"></span>
</div>

<style>
  .meter {
    position: absolute;
    top: 2px;
    right: 0;
    bottom: 3px;
    width: 3px;
    background: var(--w-sunk);
  }

  span {
    display: block;
    height: 100%;
    background: var(--w-slate);
    transform-origin: bottom;
  }

  .warm span {
    background: var(--w-ochre);
  }

  .hot span {
    background: var(--w-madder);
  }
</style>
