// Pictures of the demo, one a page. Everything in them is invented.
#set page(width: 320pt, height: 240pt, margin: 0pt)
#set text(font: "Noto Sans", size: 9pt)

#let hills(y, shade) = place(curve(
  fill: shade,
  curve.move((0pt, y)),
  curve.cubic((50pt, y - 46pt), (80pt, y - 10pt), (120pt, y - 26pt)),
  curve.cubic((170pt, y - 60pt), (210pt, y - 4pt), (260pt, y - 30pt)),
  curve.cubic((290pt, y - 44pt), (310pt, y - 20pt), (320pt, y - 18pt)),
  curve.line((320pt, y + 20pt)),
  curve.line((0pt, y + 20pt)),
  curve.close(),
))

#let ferry(x, y, tone, tilt: 0deg) = place(dx: x, dy: y, rotate(tilt, box(width: 120pt, height: 60pt, {
  place(dx: 30pt, dy: 4pt, rect(width: 50pt, height: 22pt, fill: white, stroke: 0.6pt + luma(90)))
  for i in range(4) { place(dx: 34pt + i * 11pt, dy: 9pt, rect(width: 7pt, height: 7pt, fill: rgb("#5d7f92"))) }
  place(dx: 60pt, dy: -14pt, rect(width: 9pt, height: 18pt, fill: rgb("#b5472f")))
  place(polygon(fill: tone, (4pt, 26pt), (116pt, 26pt), (102pt, 48pt), (18pt, 48pt)))
  place(dy: 30pt, dx: 28pt, text(fill: white, size: 7pt, weight: "bold")[HAVSULE])
})))

#let waves(from, count, shade) = for i in range(count) {
  let y = from + i * 13pt
  place(dx: calc.rem(i * 37, 60) * 1pt, dy: y, line(length: 40pt + calc.rem(i * 53, 60) * 1pt, stroke: 1.1pt + shade))
  place(dx: 180pt + calc.rem(i * 29, 70) * 1pt, dy: y + 5pt, line(length: 50pt, stroke: 0.9pt + shade))
}

#let pier(y) = {
  place(dx: 200pt, dy: y, rect(width: 120pt, height: 8pt, fill: rgb("#6b5238")))
  for i in range(5) { place(dx: 206pt + i * 26pt, dy: y + 8pt, rect(width: 6pt, height: 34pt, fill: rgb("#513d29"))) }
}

// 1: the harbour on a quiet morning
#place(rect(width: 100%, height: 130pt, fill: gradient.linear(rgb("#f3d9b1"), rgb("#a9c4d6"), angle: 270deg)))
#place(dx: 240pt, dy: 36pt, circle(radius: 16pt, fill: rgb("#fbeecb")))
#hills(120pt, rgb("#6f8a7b"))
#place(dy: 126pt, rect(width: 100%, height: 114pt, fill: gradient.linear(rgb("#7fa3b5"), rgb("#3f6374"), angle: 90deg)))
#waves(140pt, 7, rgb("#a8c4d0"))
#ferry(40pt, 118pt, rgb("#1f5b4a"))
#pier(150pt)
#pagebreak()

// 2: the same after the storm
#place(rect(width: 100%, height: 140pt, fill: gradient.linear(rgb("#4b545c"), rgb("#838c92"), angle: 90deg)))
#hills(130pt, rgb("#48544e"))
#place(dy: 132pt, rect(width: 100%, height: 108pt, fill: gradient.linear(rgb("#5a6f78"), rgb("#2c3d46"), angle: 90deg)))
#waves(140pt, 8, rgb("#cfd8dc"))
#ferry(60pt, 128pt, rgb("#274a6b"), tilt: -9deg)
#place(dx: 210pt, dy: 150pt, rotate(14deg, rect(width: 100pt, height: 8pt, fill: rgb("#6b5238"))))
#place(dx: 240pt, dy: 176pt, rotate(70deg, rect(width: 40pt, height: 6pt, fill: rgb("#513d29"))))
#place(dx: 262pt, dy: 128pt, rotate(-20deg, rect(width: 22pt, height: 18pt, fill: rgb("#a8752f"), stroke: 1pt + rgb("#6b4a1d"))))
#pagebreak()

// 3: the hull on the slip
#place(rect(width: 100%, height: 100%, fill: rgb("#cfd4cf")))
#place(dy: 170pt, rect(width: 100%, height: 70pt, fill: rgb("#8a8f86")))
#place(polygon(fill: rgb("#7b4a33"), (40pt, 70pt), (290pt, 78pt), (262pt, 150pt), (150pt, 166pt), (66pt, 140pt)))
#for i in range(9) { place(dx: 64pt + i * 25pt, dy: 74pt, line(angle: 82deg, length: 74pt, stroke: 2.4pt + rgb("#4e2d1e"))) }
#place(dx: 130pt, dy: 96pt, polygon(fill: rgb("#1c1310"), (0pt, 0pt), (52pt, 4pt), (46pt, 30pt), (6pt, 26pt)))
#for i in range(4) { place(dx: 80pt + i * 56pt, dy: 150pt, rect(width: 10pt, height: 44pt, fill: rgb("#54524a"))) }
#pagebreak()

// 4: a plan of the hull
#place(rect(width: 100%, height: 100%, fill: rgb("#f4f1e6")))
#place(dx: 10pt, dy: 10pt, rect(width: 300pt, height: 220pt, stroke: 1pt + rgb("#2e4a66")))
#place(curve(stroke: 1.2pt + rgb("#2e4a66"), curve.move((34pt, 70pt)), curve.cubic((110pt, 84pt), (200pt, 84pt), (286pt, 56pt)), curve.line((270pt, 112pt)), curve.cubic((210pt, 132pt), (110pt, 132pt), (52pt, 118pt)), curve.close(mode: "straight")))
#for i in range(9) { place(dx: 62pt + i * 24pt, dy: 66pt, line(angle: 90deg, length: 64pt, stroke: (paint: rgb("#2e4a66"), thickness: 0.5pt, dash: "dashed"))) ; place(dx: 58pt + i * 24pt, dy: 134pt, text(size: 6pt, fill: rgb("#2e4a66"))[#(i + 1)]) }
#place(dx: 120pt, dy: 92pt, rect(width: 62pt, height: 20pt, stroke: 0.8pt + rgb("#b5472f")))
#place(dx: 124pt, dy: 97pt, text(size: 6pt, fill: rgb("#b5472f"))[rotten, frames 4–5])
#for i in range(5) { place(dx: 40pt, dy: 160pt + i * 8pt, line(length: 120pt, stroke: 0.4pt + rgb("#2e4a66"))) }
#place(dx: 200pt, dy: 182pt, rect(width: 104pt, height: 42pt, stroke: 0.8pt + rgb("#2e4a66")))
#place(dx: 205pt, dy: 187pt, text(size: 7pt, fill: rgb("#2e4a66"))[*Havsule*, lines 1:50 \ sheet 2 of 3 \ drawn I. M.])
#pagebreak()

// 5: a paid slip
#place(rect(width: 100%, height: 100%, fill: rgb("#3f3a33")))
#place(dx: 62pt, dy: 12pt, rotate(-3deg, box(width: 196pt, height: 216pt, fill: rgb("#f7f3e3"), inset: 12pt, {
  set text(fill: rgb("#2b2b2b"), size: 10pt)
  align(center)[*PAYING-IN SLIP*  \ No. 0412]
  v(4pt)
  line(length: 100%, stroke: 0.6pt)
  [Received from \ #h(8pt) Havsule ferry association \ for \ #h(8pt) deposit, hull work]
  v(4pt)
  align(right, text(size: 16pt, weight: "bold")[40,000.00])
  [in cash, counted twice]
  v(10pt)
  text(style: "italic", size: 13pt, fill: rgb("#27408b"))[H. N.]
  place(dx: 96pt, dy: -26pt, rotate(-14deg, rect(stroke: 2pt + rgb("#a23a2a"), radius: 3pt, inset: 5pt, text(fill: rgb("#a23a2a"), weight: "bold", size: 14pt)[PAID])))
})))
#pagebreak()

// 6: a scanned letter
#place(rect(width: 100%, height: 100%, fill: rgb("#ded9cc")))
#place(dx: 34pt, dy: 8pt, rotate(1.4deg, box(width: 252pt, height: 226pt, fill: rgb("#fbfaf4"), inset: 16pt, {
  set text(fill: rgb("#26231e"), size: 8pt, font: "Source Serif 4")
  [County office for small harbours \ 6 March 2026]
  v(6pt)
  [*Grant for the ferry Havsule*]
  v(3pt)
  par(justify: true)[We write to confirm that a grant of 80,000 was paid out today to the Havsule ferry association, for the deposit on the work on the hull. It may be used for nothing else. Half may be paid before the work begins, against a receipt.]
  v(3pt)
  par(justify: true)[Please send us the receipt and the date of the launch as soon as you have them in writing.]
  v(10pt)
  text(style: "italic", size: 12pt)[S. Aune]
})))
#pagebreak()

// 7: a sticker, without a ground
#set page(width: 120pt, height: 120pt, fill: none)
#place(dx: 22pt, dy: 30pt, ellipse(width: 70pt, height: 46pt, fill: white, stroke: 2pt + rgb("#3a3f44")))
#place(dx: 70pt, dy: 14pt, circle(radius: 18pt, fill: white, stroke: 2pt + rgb("#3a3f44")))
#place(dx: 92pt, dy: 26pt, circle(radius: 2.4pt, fill: rgb("#3a3f44")))
#place(polygon(fill: rgb("#e0a52c"), (104pt, 30pt), (118pt, 34pt), (104pt, 38pt)))
#place(polygon(fill: rgb("#9aa3a8"), (26pt, 44pt), (74pt, 44pt), (40pt, 66pt)))
#for x in (46, 64) { place(dx: x * 1pt, dy: 76pt, line(angle: 90deg, length: 20pt, stroke: 2pt + rgb("#e0a52c"))) }
