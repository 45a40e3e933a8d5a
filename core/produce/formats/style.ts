/** Style of produced pages: paper, ink, print. Kept in each page, so that a page can be passed on alone. */
export const PAGE_STYLE = `
:root{--paper:#fdfcf8;--ink:#1e2528;--soft:#5c6466;--rule:#d9d4c7;--ochre:#8a5a00;--plum:#6d3a67;--teal:#12676b;--slate:#3f5f77}
*{box-sizing:border-box}
body{overflow-wrap:anywhere;margin:0 auto;max-width:60rem;padding:2rem 1.5rem 4rem;background:var(--paper);color:var(--ink);font:1rem/1.5 "Source Serif 4",Charter,Georgia,"Noto Serif",serif,"Noto Color Emoji"}
header{border-bottom:1px solid var(--rule);margin-bottom:1.5rem}
h1{font-size:1.5rem;margin:0}
h2{font:600 .8rem/1.5 "Public Sans",system-ui,sans-serif;color:var(--soft);text-align:center;border-top:1px solid var(--rule);padding-top:.5rem;margin:1.5rem 0 .5rem;break-after:avoid}
p{margin:.2rem 0}
header p,.legend,.note,.file,.who,table,.spine{font-family:"Public Sans",system-ui,sans-serif;font-size:.8rem;color:var(--soft)}
.legend span{margin-right:1rem}
article{display:grid;grid-template-columns:1fr 9.5rem 1fr;break-inside:avoid}
article .text{padding:.25rem .9rem;min-width:0}
article .spine{grid-column:2;grid-row:1;text-align:center;border-left:1px solid var(--rule);border-right:1px solid var(--rule);padding:.35rem .2rem;font:.7rem/1.7 "IBM Plex Mono",ui-monospace,monospace}
article .spine i{font-style:normal}
.other .text{grid-column:1;grid-row:1}
.own .text{grid-column:3;grid-row:1}
.both .text{grid-column:1/4;text-align:center}
.both .spine{grid-row:2;grid-column:1/4;border:0}
.body{white-space:pre-wrap;overflow-wrap:anywhere}
.who{font-variant:small-caps;color:var(--ink)}
.recovered .text{border-left:2px dotted var(--ochre)}
.own.recovered .text{border-left:0;border-right:2px dotted var(--ochre)}
.fragment .text{border-left:2px dotted var(--plum)}
.own.fragment .text{border-left:0;border-right:2px dotted var(--plum)}
.earlier .text{border-left:2px dotted var(--teal)}
.held .text{border-left:2px dotted var(--slate)}
.recovered .spine span{color:var(--ochre)}.fragment .spine span{color:var(--plum)}.earlier .spine span{color:var(--teal)}.held .spine span{color:var(--slate)}
.code{font:.75rem "IBM Plex Mono",ui-monospace,monospace;border:1px solid var(--rule);padding:0 .2rem}
.bar{background:var(--ink);color:var(--paper);font:600 .7rem/1.4 "IBM Plex Mono",ui-monospace,monospace;padding:.1rem 1.2rem;print-color-adjust:exact;-webkit-print-color-adjust:exact}
.store,.gap{text-align:center;font:.75rem/2 "Public Sans",system-ui,sans-serif;color:var(--soft)}
.gap::before,.gap::after{content:" ┄┄ "}
.quote{font:.75rem/1.5 "Public Sans",system-ui,sans-serif;color:var(--soft);border-left:1px solid var(--rule);padding-left:.5rem}
.context{opacity:.62}
.serial{color:var(--soft)}
figure{margin:.25rem 0}
figure img,figure video{max-width:100%;max-height:22rem;display:block}
.said{position:absolute;width:1px;height:1px;overflow:hidden;clip-path:inset(50%)}
table{border-collapse:collapse;width:100%;margin:.5rem 0}
th,td{text-align:left;vertical-align:top;padding:.25rem .75rem .25rem 0;border-bottom:1px solid var(--rule);overflow-wrap:anywhere}
th{white-space:nowrap}
td:last-child,code{overflow-wrap:anywhere}
code{font:.75rem "IBM Plex Mono",ui-monospace,monospace}
a{color:#1f5b4a}
@media(max-width:40rem){table{display:block;overflow-x:auto}article{display:block;border-bottom:1px solid var(--rule)}article .spine{border:0;text-align:left;padding:0 .9rem}.own .text{text-align:right}}
@media print{body{background:#fff;max-width:none;padding:0}a{color:inherit;text-decoration:none}}
`.trim();
