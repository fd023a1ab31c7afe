<!--
  Messages in one line that lies in the page, not over what one works on: the kind of the newest as one, with how many there are. All of them are
  listed when one asks; of problems that wait it is said how many.
-->
<script lang="ts">
  import { Button, InlineNotification } from "carbon-components-svelte";
  import { notices, type Notice, type NoticeGroup } from "./notices.svelte";

  const words = {
    error: ["Problem", "problems"],
    info: ["Note", "notes"],
    success: ["Done", "done"]
  } as const;
  const HEADS = { error: "Problems", info: "Notes", success: "Done" } as const;

  let open = $state(false);
  let shownText: HTMLElement | undefined = $state();
  let room = $state(0);
  /** The message that did not fit into the line whole: that stays so, else the button that tells of it would come and go. */
  let cut = $state<number | null>(null);
  const groups = $derived(notices.groups);
  const first = $derived(groups[0]);
  const newest = $derived(first?.notices[0]);
  const waiting = $derived(groups.slice(1).find(({ kind }) => kind === "error")?.notices.length ?? 0);
  const all = $derived(
    `All ${notices.list.length}${waiting > 0 ? `, ${waiting} ${waiting === 1 ? "problem" : "problems"}` : ""}`
  );
  const more = $derived(notices.list.length > 1 || (newest !== undefined && cut === newest.id));

  function look(): void {
    if (newest && room > 0 && shownText && shownText.scrollHeight > shownText.clientHeight + 1)
      cut = newest.id;
  }

  $effect(look);

  function act(notice: Notice): void {
    notices.dismiss([notice.id]);
    notice.act?.run();
  }

  function titleOf({ kind, notices: some }: NoticeGroup): string {
    const [one, many] = words[kind];
    return some.length === 1 ? `${one}:` : `${some.length} ${many}:`;
  }

  function dismiss(event: Event, some: readonly Notice[]): void {
    // Carbon would hide it for good: the next message shows in the same place.
    event.preventDefault();
    notices.dismiss(some.map((n) => n.id));
    if (notices.list.length < 2) open = false;
  }
</script>

{#snippet ways(notice: Notice)}
  {#if notice.link}<a href={notice.link.href} download>{notice.link.label}</a>{/if}
  {#if notice.act}<button onclick={() => act(notice)}>{notice.act.label}</button>{/if}
{/snippet}

<div class="notices" role="region" aria-label="Messages">
  {#if first}
    <div class="line">
      <InlineNotification
        lowContrast
        kind={first.kind}
        role={first.kind === "error" ? "alert" : "status"}
        title={titleOf(first)}
        closeButtonDescription={first.notices.length === 1 ? "Dismiss message" : "Dismiss these messages"}
        on:close={(event) => dismiss(event, first.notices)}
      >
        <svelte:fragment slot="subtitleChildren">
          <span class="both">
            <span class="text" bind:this={shownText} bind:clientWidth={room} title={newest?.text}
              >{newest?.text}</span
            >
            {#if newest}{@render ways(newest)}{/if}
          </span>
        </svelte:fragment>
      </InlineNotification>
      {#if more}
        <Button kind="ghost" size="small" aria-expanded={open} on:click={() => (open = !open)}
          >{open ? "Hide" : notices.list.length > 1 ? all : "More"}</Button
        >
      {/if}
    </div>
  {/if}
  {#if open && first}
    <div class="all" role="group" aria-label="All messages">
      {#each groups as group (group.kind)}
        <h2>{group.notices.length > 1 ? HEADS[group.kind] : words[group.kind][0]}</h2>
        <ul>
          {#each group.notices as notice (notice.id)}
            <li>
              <span>{notice.text} {@render ways(notice)}</span>
              <Button kind="ghost" size="small" on:click={(event) => dismiss(event, [notice])}>Dismiss</Button
              >
            </li>
          {/each}
        </ul>
      {/each}
    </div>
  {/if}
</div>

<svelte:window onkeydown={(event) => event.key === "Escape" && (open = false)} />

<style>
  .notices {
    position: relative;
    min-width: 0;
  }

  .line {
    display: flex;
    align-items: center;
    gap: 4px;
    min-width: 0;
  }

  .line :global(.bx--inline-notification) {
    flex: 1;
    min-width: 0;
    margin: 0;
  }

  .line :global(.bx--inline-notification__details),
  .line :global(.bx--inline-notification__text-wrapper) {
    flex-wrap: nowrap;
    min-width: 0;
    overflow: hidden;
  }

  .line :global(.bx--inline-notification__subtitle) {
    min-width: 0;
  }

  .both {
    display: flex;
    align-items: center;
    gap: 8px;
    font-size: 12px;
  }

  /* What can be done is never cut off. */
  .both > :is(a, button) {
    flex: none;
    white-space: nowrap;
  }

  button {
    padding: 0;
    border: 0;
    background: none;
    color: var(--w-slate);
    font: inherit;
    font-weight: 600;
    text-decoration: underline;
    cursor: pointer;
  }

  /* Two lines: a sentence of usual length is read at once. */
  .text {
    flex: 1 1 auto;
    min-width: 0;
    display: -webkit-box;
    -webkit-box-orient: vertical;
    -webkit-line-clamp: 2;
    line-clamp: 2;
    overflow: hidden;
    font-size: 12px;
    line-height: 16px;
  }

  .line :global(.bx--inline-notification__text-wrapper) {
    align-items: center;
    padding: 1px 0;
  }

  .line :global(.bx--inline-notification__title) {
    white-space: nowrap;
  }

  .all {
    position: absolute;
    z-index: 9500;
    top: 36px;
    right: 0;
    left: 0;
    min-width: 380px;
    max-height: 50vh;
    padding: 4px 12px 8px;
    overflow-y: auto;
    border: 1px solid var(--w-soft);
    background: var(--w-panel);
  }

  h2 {
    margin: 8px 0 2px;
    font-size: 13px;
    font-weight: 600;
  }

  ul {
    margin: 0;
    padding: 0;
    list-style: none;
  }

  li {
    display: flex;
    align-items: flex-start;
    justify-content: space-between;
    gap: 8px;
    padding: 4px 0;
    border-top: 1px solid var(--w-rule);
  }

  a {
    color: var(--w-slate);
    font-weight: 600;
  }
</style>
