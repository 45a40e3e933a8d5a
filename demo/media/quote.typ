#set page(width: 148mm, height: 210mm, margin: 18mm)
#set text(font: "Source Serif 4", size: 10pt)
#set document(title: "Quote for the hull of Havsule", author: "Yard H. Nystuen", date: none)
= Quote for the hull of Havsule
Yard H. Nystuen, 14 November 2025

#table(columns: (1fr, auto), stroke: 0.4pt,
  [Garboard strakes, port side, oak], [38,000],
  [Two frames behind the engine], [41,500],
  [Caulking and three coats], [22,000],
  [Slip, from April to launch], [58,500],
  [*Together*], [*160,000*])

A deposit of half is due before the work begins. The launch is promised in writing when the deposit is in.
