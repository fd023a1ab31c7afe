<!-- What is seen of the edit screen until the project has come, and when it cannot be opened. -->
<script lang="ts">
  interface Props {
    name: string;
    /** Why it cannot be opened; null: it is on its way. */
    fault: string | null;
  }

  let { name, fault }: Props = $props();
</script>

<header>
  <a href="/" title="Back to the projects">Wring</a>
  <h1>{name}</h1>
</header>
<main>
  {#if fault === null}<p class="soft" role="status">Opening the project…</p>
  {:else}
    <p role="alert">{fault}</p>
    <p><a href="/">Back to the projects</a></p>
  {/if}
</main>

<style>
  header {
    display: flex;
    align-items: center;
    gap: 16px;
    height: 40px;
    padding: 0 14px;
    border-bottom: 1px solid var(--w-rule);
    background: var(--w-panel);
  }

  header a {
    font-size: 17px;
    font-weight: 600;
    text-decoration: none;
  }

  a {
    color: var(--w-ink);
  }

  h1 {
    margin: 0;
    font-size: 14px;
    font-weight: 400;
  }

  main {
    padding: 14px 24px;
    font-size: 14px;
  }
</style>
