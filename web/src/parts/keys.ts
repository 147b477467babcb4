import { useHotkeys } from 'react-hotkeys-hook'

/** Kinds of input that take no text. */
const TEXTLESS = ['checkbox', 'radio', 'range', 'button', 'color', 'file']

/** Whether a typed character belongs to what has the focus. */
export function takesText(e: Element | null): boolean {
  if (e instanceof HTMLInputElement) return !e.readOnly && !TEXTLESS.includes(e.type)
  return e instanceof HTMLTextAreaElement || (e as HTMLElement | null)?.isContentEditable === true
}

/** What Space presses, when it has the focus. */
const PRESSED = 'input, button, select, [role="slider"], [role="switch"], [role="radio"], [role="option"], [role^="menuitem"]'

/** A shortcut, wherever the focus is but in what takes text: ticks, sliders and lists do not. */
export function useKeys(
  keys: string,
  run: (e: KeyboardEvent) => void,
  options: { keydown?: boolean; keyup?: boolean; enabled?: boolean; preventDefault?: boolean } = {},
): void {
  useHotkeys(keys, run, {
    ...options,
    enableOnFormTags: true,
    ignoreEventWhen: (e) => takesText(e.target as Element | null) || (e.key === ' ' && (e.target as Element | null)?.matches?.(PRESSED) === true),
  })
}
