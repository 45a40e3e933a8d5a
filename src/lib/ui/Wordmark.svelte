<a class="wordmark" href="/" aria-label="Ombudsman, to the casebook">Ombuds<i>man</i></a>

<style>
  .wordmark {
    font: 600 18px var(--font-text);
    letter-spacing: 0.2px;
    color: var(--ink);
    text-decoration: none;
  }
  i {
    font-style: normal;
    color: var(--accent);
  }
</style>
