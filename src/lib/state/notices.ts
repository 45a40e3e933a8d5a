import { createToaster } from '@skeletonlabs/skeleton-svelte';

/** Short notices at the edge of the page: what was done, with a way back where there is one. */
export const notices = createToaster({ placement: 'bottom-end', duration: 8000 });
