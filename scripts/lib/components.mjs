// Makes Node a place in which components can be mounted: a document, and a loader for them.
import { register } from 'node:module';
import { GlobalRegistrator } from '@happy-dom/global-registrator';

register('./svelte-hooks.mjs', import.meta.url);
GlobalRegistrator.register({ url: 'http://127.0.0.1/case/test/read' });

// Nothing is laid out here: boxes are said to be as large as a window, so that lists draw their rows.
for (const [name, size] of Object.entries({
  offsetHeight: 700,
  offsetWidth: 1200,
  clientHeight: 700,
  clientWidth: 1200
}))
  Object.defineProperty(HTMLElement.prototype, name, { configurable: true, get: () => size });
