// Cases live in this browser, so there is nothing for the server to render.
export const ssr = false;
