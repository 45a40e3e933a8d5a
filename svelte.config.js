import adapter from '@sveltejs/adapter-node';
import { vitePreprocess } from '@sveltejs/vite-plugin-svelte';

/** @type {import('@sveltejs/kit').Config} */
export default {
  preprocess: vitePreprocess(),
  kit: {
    // Everything is served on the machine that it was built on: packing would only take time.
    adapter: adapter({ precompress: false }),
    // Registered when nothing else runs: it is some 60 MB that would be fetched beside a pass.
    serviceWorker: { register: false },
    // One page serves every address when the server is gone.
    paths: { relative: false },
    alias: { $core: 'core', $bench: 'bench', $demo: 'demo' },
    csp: {
      mode: 'auto',
      directives: {
        'default-src': ['self'],
        // WebAssembly hashes large files in the worker.
        'script-src': ['self', 'wasm-unsafe-eval'],
        'style-src': ['self', 'unsafe-inline'],
        'img-src': ['self', 'data:', 'blob:'],
        'font-src': ['self', 'data:'],
        'media-src': ['self', 'blob:'],
        'worker-src': ['self'],
        'connect-src': ['self'],
        'frame-src': ['self'],
        'object-src': ['none'],
        'base-uri': ['none'],
        'form-action': ['self'],
        'frame-ancestors': ['self']
      }
    }
  }
};
