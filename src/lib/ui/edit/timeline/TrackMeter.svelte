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
  <span style:background-size="100% {share * 100}%"></span>
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
    /* Filled from below by the background's size, which needs no new layout. */
    background: linear-gradient(var(--level), var(--level)) bottom no-repeat;
  }

  .meter {
    --level: var(--w-slate);
  }

  .warm {
    --level: var(--w-ochre);
  }

  .hot {
    --level: var(--w-madder);
  }
</style>
