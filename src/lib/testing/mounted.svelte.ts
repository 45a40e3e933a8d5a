import { flushSync, mount, unmount, type Component } from 'svelte';

/** A component in the document, with props that can be changed as a view changes them. */
export interface Mounted<Props> {
  target: HTMLElement;
  props: Props;
  text(): string;
  remove(): void;
}

/** Mounts a component; every change of its props is drawn at once. */
export function mounted<Props extends Record<string, unknown>>(
  component: Component<Props>,
  given: Props
): Mounted<Props> {
  const props = $state(given);
  const target = document.createElement('div');
  document.body.append(target);
  const instance = mount(component, { target, props });
  flushSync();
  return {
    target,
    props,
    text: () => (target.textContent ?? '').replace(/\s+/g, ' ').trim(),
    remove() {
      void unmount(instance);
      target.remove();
    }
  };
}

/** Lets answers that are there arrive, and what they change be drawn. */
export async function drawn(): Promise<void> {
  for (let turn = 0; turn < 10; turn++) {
    await new Promise((resolve) => setTimeout(resolve, 2));
    flushSync();
  }
}

/** An answer that comes when the test says so. */
export interface Pending<T> {
  answer: Promise<T>;
  come(value: T): void;
  fail(reason: string): void;
}

export function pending<T>(): Pending<T> {
  let come!: (value: T) => void;
  let refuse!: (error: Error) => void;
  const answer = new Promise<T>((resolve, reject) => {
    come = resolve;
    refuse = reject;
  });
  return { answer, come, fail: (reason) => refuse(new Error(reason)) };
}

/** The button, link or field of the document that is called so, by its label or its words. */
export function named(words: string | RegExp, selector = 'button, a, summary'): HTMLElement {
  const found = [...document.querySelectorAll<HTMLElement>(selector)].find((one) => {
    const label = one.id === '' ? null : document.querySelector(`label[for="${one.id}"]`);
    const own = one.closest('label');
    const said = [one.getAttribute('aria-label'), one.textContent, label?.textContent]
      .concat(own?.textContent ?? null)
      .join(' ');
    return typeof words === 'string' ? said.includes(words) : words.test(said);
  });
  if (!found) throw new Error(`Nothing is called ${String(words)}.`);
  return found;
}

/** Presses what is called so. */
export function press(words: string | RegExp, event: MouseEventInit = {}): void {
  named(words).dispatchEvent(
    new MouseEvent('click', { bubbles: true, cancelable: true, ...event })
  );
  flushSync();
}

/** Types into a field and leaves it. */
export function type(words: string | RegExp, text: string): void {
  const field = named(words, 'input, textarea') as HTMLInputElement;
  field.value = text;
  for (const kind of ['input', 'change']) field.dispatchEvent(new Event(kind, { bubbles: true }));
  flushSync();
}

/** Ticks or unticks a box, or takes a choice. */
export function tick(words: string | RegExp): void {
  const box = named(words, 'input[type=checkbox], input[type=radio]') as HTMLInputElement;
  box.checked = box.type === 'radio' || !box.checked;
  box.dispatchEvent(new Event('change', { bubbles: true }));
  flushSync();
}
