<!-- A number with its unit and its label; where `off` is a word, it may be switched off. -->
<script lang="ts">
  import TypedField from "../shared/TypedField.svelte";

  interface Props {
    label: string;
    unit: string;
    min: number;
    max: number;
    value: number | null;
    /** What it is called when it is null; left out: it cannot be. */
    off?: string;
    decimals?: number;
    step?: number;
    standard: number | null;
    help?: string;
    set: (value: number | null) => void;
  }

  let {
    label,
    unit,
    min,
    max,
    value,
    off,
    decimals = 1,
    step = 0.5,
    standard,
    help = "",
    set
  }: Props = $props();
  const text = $derived(value === null ? (off ?? "") : `${value.toFixed(decimals)} ${unit}`);

  function commit(typed: string): boolean {
    if (off && (typed.trim() === "" || typed.trim().toLowerCase() === off)) {
      set(null);
      return true;
    }
    const match = /^\s*([+\-−]?\d+(?:[.,]\d+)?)\s*([a-z/]*)\s*$/i.exec(typed);
    if (!match?.[1]) return false;
    const known = match[2] === "" || match[2]?.toLowerCase() === unit.toLowerCase();
    const number = Number(match[1].replace("−", "-").replace(",", "."));
    if (!known || number < min || number > max) return false;
    set(number);
    return true;
  }

  function move(direction: 1 | -1, fine: boolean): void {
    const from = value ?? standard ?? (min + max) / 2;
    const next = from + direction * (fine ? step / 5 : step);
    set(Math.round(Math.max(min, Math.min(max, next)) * 100) / 100);
  }
</script>

<span class="number-field">
  <span class="label" aria-hidden="true">{label}</span>
  <TypedField
    {label}
    takes={`${min} to ${max} ${unit}${off ? `, or “${off}”` : ""}`}
    title={help}
    {text}
    width="104px"
    {commit}
    step={move}
    reset={() => set(standard)}
  />
</span>

<style>
  .number-field {
    display: grid;
    gap: 2px;
  }

  .label {
    color: var(--w-soft);
    font-size: 12px;
  }
</style>
