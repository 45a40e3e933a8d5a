import type { Plugin } from 'vite';

export function noEval(): Plugin;
