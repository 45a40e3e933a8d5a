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
