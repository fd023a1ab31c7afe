<!-- The strip along a clip's lower edge: none untreated, dashed live, solid rendered, hatched no longer matching, hollow off. -->
<script lang="ts">
  import type { ClipState } from "$lib/core/session/clipState";

  let { state, steps }: { state: ClipState; steps: number } = $props();
</script>

<span class="hem {state}" aria-hidden="true">
  <span class="strip"></span>
  {#if state !== "untreated"}<span class="count number">{steps}</span>{/if}
</span>

<style>
  .hem {
    display: flex;
    align-items: center;
    gap: 3px;
    height: 11px;
    padding: 0 3px;
    border-top: 1px solid var(--w-rule);
    background: var(--w-panel);
  }

  .strip {
    flex: 1;
    box-sizing: border-box;
    height: 5px;
  }

  .count {
    font-size: 10px;
    line-height: 10px;
    color: var(--w-ink);
  }

  .live .strip {
    background: repeating-linear-gradient(90deg, var(--w-madder) 0 9px, transparent 9px 14px);
  }

  .rendered .strip {
    background: var(--w-madder);
  }

  .stale .strip {
    border: 1px solid var(--w-madder);
    background: repeating-linear-gradient(135deg, var(--w-madder) 0 2px, transparent 2px 6px);
  }

  .off .strip {
    border: 1px solid var(--w-soft);
  }
</style>
