<script lang="ts">
  import Close from "carbon-icons-svelte/lib/Close.svelte";
  import { notices } from "./notices.svelte";

  const words = { error: "Problem", info: "Note", success: "Done" };
</script>

<div class="notices" role="region" aria-label="Messages" aria-live="polite">
  {#each notices.list as notice (notice.id)}
    <div class="notice {notice.kind}" role={notice.kind === "error" ? "alert" : "status"}>
      <p>
        <strong>{words[notice.kind]}:</strong>
        {notice.text}
        {#if notice.link}<a href={notice.link.href} download>{notice.link.label}</a>{/if}
      </p>
      <button class="plain bare" aria-label="Dismiss message" onclick={() => notices.dismiss(notice.id)}>
        <Close size={16} />
      </button>
    </div>
  {/each}
</div>

<style>
  .notices {
    position: fixed;
    right: 16px;
    top: 52px;
    z-index: 9500;
    display: grid;
    gap: 8px;
    width: min(420px, 90vw);
  }

  .notice {
    display: flex;
    align-items: flex-start;
    gap: 8px;
    padding: 8px 8px 8px 12px;
    background: var(--w-panel);
    border: 1px solid var(--w-rule);
    border-left: 4px solid var(--w-slate);
    box-shadow: 0 2px 8px rgb(0 0 0 / 12%);
  }

  .notice.error {
    border-left-color: var(--w-madder);
  }

  p {
    flex: 1;
    margin: 4px 0;
    font-size: 13px;
  }

  a {
    color: var(--w-slate);
    font-weight: 600;
  }
</style>
