/**
 * `v-held="value"` on a field instead of `:value`: what is being typed is not swept away when something else on the
 * page changes.
 */
import type { ObjectDirective } from 'vue'

type Field = HTMLInputElement | HTMLTextAreaElement
type Value = string | number

/** An edit that was entered is kept a moment later; until then the field shows what was typed. */
const SETTLES = 250

const latest = new WeakMap<Field, Value>()

function show(field: Field, value: Value): void {
  if (field.value !== String(value)) field.value = String(value)
}

export const vHeld: ObjectDirective<Field, Value> = {
  mounted(field, { value }) {
    latest.set(field, value)
    show(field, value)
    field.addEventListener('blur', () => setTimeout(() => show(field, latest.get(field)!), SETTLES))
  },
  updated(field, { value, oldValue }) {
    latest.set(field, value)
    if (value !== oldValue || document.activeElement !== field) show(field, value)
  }
}
