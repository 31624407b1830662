import type { Group, Shot } from '../shot'
import { edit, select } from './store'

/** A new element into its group, selected. */
export function add<T extends { id: string; name: string }>(group: Group, element: T, more?: (s: Shot) => void): void {
  edit(`a new ${element.name}`, (s) => {
    ;(s[group] as unknown as T[]).push(element)
    more?.(s)
  })
  select(element.id)
}
