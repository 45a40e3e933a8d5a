/**
 * The page as it is set. Everything that is said comes from `record.json`, as
 * data: no text of a case is ever read as markup.
 */
export const TEMPLATE = `
#let d = json("/record.json")
#let s = d.set
#let ink = rgb("#1e2528")
#let soft = rgb("#5c6466")
#let rule-color = rgb("#c9c3b4")
#let colors = (live: ink, held: rgb("#3f5f77"), recovered: rgb("#8a5a00"), fragment: rgb("#6d3a67"), earlier: rgb("#12676b"))
#let small = 0.8em
#let sans = (d.sans,) + d.families

#set document(title: s.title, author: s.author, keywords: s.keywords, date: datetime(year: s.made.at(0), month: s.made.at(1), day: s.made.at(2), hour: s.made.at(3), minute: s.made.at(4), second: s.made.at(5)))
#set text(font: d.families, size: s.size * 1pt, fill: ink, fallback: false, cjk-latin-spacing: none, hyphenate: false, lang: "en")
#set par(leading: 0.55em, spacing: 0.55em)

#let bar(code) = box(fill: ink, inset: (x: 0.9em, y: 0.12em), outset: (y: 0.12em), text(fill: white, font: d.mono, size: 0.75em, code))
#let run(r) = if type(r) == str { r } else if "e" in r { text(font: d.emoji, r.e) } else if "b" in r { bar(r.b) } else { text(font: d.mono, size: 0.78em, fill: soft, "[" + r.c + "]") }
// Shapes, not characters: no font need have them.
#let shape(state) = box(width: 0.72em, height: 0.62em, baseline: -0.02em, {
  let c = colors.at(state)
  let diamond = ((0.31em, 0em), (0.62em, 0.31em), (0.31em, 0.62em), (0em, 0.31em))
  if state == "live" { place(circle(radius: 0.24em, fill: c)) }
  else if state == "held" { place(circle(radius: 0.26em, stroke: 0.6pt + c)); place(dx: 0.26em, rect(width: 0.26em, height: 0.26em, fill: c)) }
  else if state == "recovered" { place(polygon(fill: c, ..diamond)) }
  else if state == "fragment" { place(polygon(stroke: 0.7pt + c, ..diamond)) }
  else { place(dx: 0.1em, polygon(stroke: 0.7pt + c, (0.5em, 0em), (0.5em, 0.55em), (0em, 0.28em))) }
})
#let said(p) = { set text(dir: if p.d == "rtl" { rtl } else { ltr }); for r in p.r { run(r) } }
// A name is set in a box of its own: its direction does not touch what stands beside it.
#let name(p) = box(said(p))
#let paragraphs(list) = if list.len() == 1 and list.first().d == "ltr" { for r in list.first().r { run(r) } } else { for p in list { block(above: 0.45em, below: 0.45em, width: 100%, align(if p.d == "rtl" { right } else { left }, if p.r.len() == 0 { [ ] } else { said(p) })) } }

#let stamp() = context if s.stamp != none {
  let n = str(s.stamp.start + s.before + here().page() - 1)
  let zeros = calc.max(0, s.stamp.digits - n.len())
  text(font: d.mono, size: 8.5pt, weight: "regular", s.stamp.prefix + "0" * zeros + n)
}
#let of-pages = context {
  let n = here().page()
  let all = counter(page).final().first()
  if s.volumes == 1 { [Page #n of #all] } else { [Volume #s.volume of #s.volumes, page #n of #all] }
}
#let at(side) = if s.stamp != none and s.stamp.position == side { stamp() }
#set page(
  paper: s.paper,
  margin: (x: s.margin * 1mm, top: (s.margin + 4) * 1mm, bottom: (s.margin + 2) * 1mm),
  header: {
    set text(font: sans, size: 7.5pt, fill: soft)
    grid(columns: (1fr, auto), column-gutter: 4mm, align: (left, right),
      context { let heads = query(<thread>).filter(m => { let at = m.location(); at.page() < here().page() or (at.page() == here().page() and at.position().y < 45mm) }); if heads.len() > 0 { name(d.sections.at(heads.last().value).short) } else { name(d.title) } },
      if s.stamp != none and s.stamp.position == "top-right" { stamp() } else { s.zone-text })
    v(-0.4em)
    line(length: 100%, stroke: 0.5pt + rule-color)
  },
  footer: {
    set text(font: sans, size: 7.5pt, fill: soft)
    line(length: 100%, stroke: 0.5pt + rule-color)
    v(-0.4em)
    grid(columns: (1fr, 1fr, 1fr), align: (left, center, right),
      if s.stamp != none and s.stamp.position == "bottom-left" { stamp() } else { name(d.reference) },
      if s.stamp != none and s.stamp.position == "bottom-centre" { stamp() } else { of-pages },
      if s.stamp != none and s.stamp.position == "bottom-right" { stamp() } else if s.stamp != none and s.stamp.position == "bottom-centre" { of-pages } else { [] })
  },
)
#show heading: set text(font: sans, weight: "semibold")
#show heading.where(level: 1): it => block(above: 1.6em, below: 0.5em, sticky: true, text(size: 1.25em, it.body))
#show heading.where(level: 2): it => block(above: 1.2em, below: 0.2em, width: 100%, sticky: true, align(center, text(size: 0.85em, fill: soft, it.body)))

// Cover.
#if s.volume == 1 {
  v(14mm)
  block(text(size: 2em, weight: "semibold", name(d.title)))
  v(2mm)
  set text(font: sans, size: 9pt)
  grid(columns: (34mm, 1fr), row-gutter: 0.7em, ..d.facts.map(f => (text(fill: soft, f.at(0)), name(f.at(1)))).flatten())
  v(4mm)
  text(weight: "semibold")[What this record was read from]
  for source in d.sources {
    block(above: 0.8em, breakable: false)[#name(source.name) #text(fill: soft, source.facts) \\ #text(font: d.mono, size: 7pt, "SHA-256 " + source.sum)]
  }
  v(4mm)
  text(weight: "semibold")[What it holds]
  table(columns: (1fr, auto, auto, auto), stroke: (x, y) => if y > 0 { (bottom: 0.4pt + rule-color) }, inset: (x: 0pt, y: 0.35em), column-gutter: 4mm, align: (left, left, right, right),
    table.header([], text(fill: soft)[from and to], text(fill: soft)[how much], text(fill: soft)[not live]),
    ..d.overview.map(o => (name(o.title), o.span, o.lines, o.other)).flatten())
  v(4mm)
  text(weight: "semibold")[Marks]
  grid(columns: (8mm, 32mm, 1fr), row-gutter: 0.5em, ..d.marks.map(m => (shape(m.at(0)), m.at(1), text(fill: soft, m.at(2)))).flatten())
  if d.redactions.len() > 0 {
    v(4mm)
    text(weight: "semibold")[Redactions]
    grid(columns: (auto, 1fr), column-gutter: 6mm, row-gutter: 0.5em, ..d.redactions.map(r => (bar(r.at(0)), r.at(1))).flatten())
  }
  pagebreak(weak: true)
}

// Number and mark, and below them the time: two lines, which stand beside any body.
#let spine-cell(l) = {
  set text(font: d.mono, size: 0.72em)
  set par(leading: 0.4em)
  align(center)[#metadata(l.i)<line>#l.n #h(0.2em) #shape(l.state)#if l.w != "" [ #text(fill: colors.at(l.state), l.w)] \\ #l.t]
}
#let spine-width = 27mm
#let beside = 50% + spine-width / 2 + 1mm
#let picture(p) = block(above: 0.5em, below: 0.3em, breakable: false, {
  image(p.path, width: p.w * 1mm, height: p.h * 1mm, fit: "contain", alt: p.alt)
})
#let file-block(f) = {
  if f.picture != none { picture(f.picture) }
  block(above: 0.5em, below: 0.3em, text(font: sans, size: 0.72em, fill: soft, if f.code != none { bar(f.code) } else { [#name(f.name)#f.facts]; for code in f.codes { h(0.5em); bar(code) } }))
}
#let content(l) = {
  if l.who != none { block(below: 0.3em, text(font: sans, size: small, weight: "semibold", name(l.who))) }
  if l.quote != none { block(inset: (left: 0.6em), stroke: (left: 0.6pt + rule-color), text(font: sans, size: small, fill: soft, [#l.quote.to #name(l.quote.text)])) }
  if l.subject != none { block(below: 0.3em, strong(name(l.subject))) }
  paragraphs(l.body)
  for f in l.files { file-block(f) }
  for r in l.more { block(above: 0.3em, text(font: sans, size: small, fill: soft, said(r))) }
}
#let edged(l, body) = {
  let shown = if l.context { text(fill: soft, body) } else { body }
  if l.state == "live" { return shown }
  let edge = (paint: colors.at(l.state), thickness: 0.9pt, dash: "dotted")
  let side = if l.side == "r" { (right: edge) } else { (left: edge) }
  block(width: 100%, outset: (x: 0.5em, y: 0.1em), stroke: side, shown)
}
// The spine is placed, not set in a grid: that takes half the time.
#let spine-row(l) = block(above: 1.35em, below: 1.35em, width: 100%, breakable: not l.keep, {
  place(top + center, box(width: spine-width, spine-cell(l)))
  if l.side == "l" { pad(left: 0.5em, right: beside, edged(l, content(l))) }
  else if l.side == "r" { pad(left: beside, right: 0.5em, edged(l, content(l))) }
  else { v(2.2em); align(center, block(width: 70%, text(size: 0.9em, fill: soft, content(l)))) }
})
// What is long goes on in blocks of its own: one block over many pages is laid out anew for each.
#let more-row(l) = block(above: 0.45em, below: 0.45em, width: 100%, breakable: l.files.len() == 0, {
  let body = edged(l, {
    if l.body.len() > 0 { paragraphs(l.body) }
    for f in l.files { file-block(f) }
    for r in l.more { block(above: 0.3em, text(font: sans, size: small, fill: soft, said(r))) }
  })
  if s.layout != "spine" { body }
  else if l.side == "l" { pad(left: 0.5em, right: beside, body) }
  else if l.side == "r" { pad(left: beside, right: 0.5em, body) }
  else { align(center, block(width: 70%, text(size: 0.9em, fill: soft, body))) }
})
#let stacked-row(l) = block(above: 1em, below: 0.3em, width: 100%, breakable: not l.keep, {
  block(above: 1em, below: 0.3em, sticky: true, text(font: sans, size: 0.8em)[#metadata(l.i)<line>#text(fill: soft, str(l.n)) #h(0.6em) #if l.from != none { strong(name(l.from)) } #h(0.6em) #l.t #h(0.6em) #shape(l.state)#if l.w != "" [ #text(fill: colors.at(l.state), l.w)]])
  edged((..l, side: "l", who: none), content((..l, who: none)))
})
#let day(t) = block(above: 1.1em, below: 0.6em, width: 100%, sticky: true, grid(columns: (1fr, auto, 1fr), column-gutter: 3mm, align: horizon,
  line(length: 100%, stroke: 0.5pt + rule-color), text(font: sans, size: small, weight: "semibold", t), line(length: 100%, stroke: 0.5pt + rule-color)))
#let gap(t) = block(above: 0.8em, below: 0.8em, width: 100%, align(center, text(font: sans, size: small, fill: soft)[– – #t – –]))

#let rows-of(columns, widths, rows) = {
  set text(font: sans, size: 7.5pt)
  table(columns: widths, stroke: (x, y) => (bottom: 0.4pt + rule-color), inset: (x: 2pt, y: 3pt),
    table.header(..columns.map(c => text(fill: soft, c))), ..rows.map(r => r.map(c => said(c))).flatten())
}
#let listing(title, columns, widths, rows) = if rows.len() > 0 {
  heading(level: 1, title)
  rows-of(columns, widths, rows)
}
#let conversation(thread) = {
  block(below: 0.6em, sticky: true, text(font: sans, size: small, fill: soft, { if thread.people.len() > 0 [With ]; thread.people.map(p => name(p.name) + if p.address != none [ (#name(p.address))]).join([, ]); if thread.people.len() > 0 [. ]; thread.part }))
  for row in thread.rows {
    if row.k == "month" { heading(level: 2, row.t) }
    else if row.k == "day" { day(row.t) }
    else if row.k == "gap" { gap(row.t) }
    else if row.k == "store" { block(above: 0.6em, below: 0.4em, width: 100%, sticky: true, align(center, text(font: sans, size: 0.68em, fill: soft, said(row.t)))) }
    else if row.k == "more" { more-row(row) }
    else if s.layout == "spine" { spine-row(row) }
    else { stacked-row(row) }
  }
}

#for (i, section) in d.sections.enumerate() {
  if section.k == "thread" and i > 0 { pagebreak(weak: true) }
  [#metadata(i)<thread>]
  heading(level: 1, name(section.title))
  if section.k == "thread" { conversation(section) }
  else if section.k == "calls" { rows-of(("who", "number or address", "direction", "when", "lasted", "state"), (1.2fr, 1.2fr, auto, auto, auto, auto), section.rows) }
  else if section.k == "contacts" { rows-of(("name", "numbers", "addresses", "organisation", "state"), (1.2fr, 1.2fr, 1.2fr, 1fr, auto), section.rows) }
  else if section.k == "gaps" { rows-of(("with", "missing", "after", "before", "how it shows"), (1fr, auto, auto, auto, 1.6fr), section.rows) }
  else { for f in section.rows { block(above: 1em, breakable: false, { file-block(f); for c in f.carried { block(above: 0.3em, text(font: sans, size: 0.72em, fill: soft, said(c))) } }) } }
}
#listing("Files that came with the lines", ("line", "name", "type", "size", "SHA-256"), (auto, 1fr, auto, auto, 1.6fr), d.files)
#listing("Evidence for the messages that were deleted or changed", ("line", "state", "certainty", "bytes"), (auto, auto, auto, 1fr), d.proofs)
#if d.attached { pdf.attach("/lines.csv", description: "The text of every line, exactly", mime-type: "text/csv", relationship: "data") }
#let where(list) = list.map(m => (m.value, m.location().page()))
#context [#metadata((pages: here().page(), places: where(query(<line>)), sections: where(query(<thread>))))<facts>]
`;
