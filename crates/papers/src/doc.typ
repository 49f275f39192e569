// Every document is a list of blocks; this file sets them. What they say comes from data.json.
#let d = json("data.json")
#let ink = rgb("#17292b")
#let soft = rgb("#5c6461")
#let line-colour = rgb("#d8d2c2")
#let watch = rgb("#8a5a10")

#set document(title: d.title, author: d.author, keywords: d.keywords, date: none)
#set text(font: ("Atkinson Hyperlegible Next", "DejaVu Sans"), size: 9.5pt, fill: ink, lang: d.lang)
#set par(leading: 0.55em, spacing: 0.8em)
#let foot = context [
  #set text(size: 7.5pt, fill: soft)
  #line(length: 100%, stroke: 0.4pt + line-colour)
  #v(-0.6em)
  #grid(columns: (1fr, auto), d.foot, [#d.page-word #counter(page).display() / #counter(page).final().first()])
]
#set page(width: d.width * 1mm, height: d.height * 1mm, margin: (x: 16mm, top: 15mm, bottom: 16mm), footer: foot)
#set heading(numbering: none)
#show heading.where(level: 1): it => block(above: 2.2em, below: 0.7em, text(size: 17pt, weight: 700, it.body))
#show heading.where(level: 2): it => block(above: 1.3em, below: 0.6em, text(size: 12pt, weight: 700, it.body))
#show heading.where(level: 3): it => block(above: 1em, below: 0.4em, text(size: 10pt, weight: 700, it.body))

#let tick = box(width: 3.2mm, height: 3.2mm, stroke: 0.7pt + ink, baseline: 0.4mm)

#let sheet(b) = {
  set page(width: b.width * 1mm, height: b.height * 1mm, margin: 8mm, footer: none)
  box(width: 100%, height: 100%, stroke: 0.6pt + ink)[
    #place(top + left, dx: b.x * 1mm, dy: b.y * 1mm, image(b.image, width: b.draw-width * 1mm, height: b.draw-height * 1mm, alt: b.alt))
    #place(bottom + left, dx: 0mm, dy: 0mm, box(width: 100%, height: 26mm, stroke: (top: 0.6pt + ink), inset: 2.5mm)[
      #grid(columns: (1fr, 1.9fr, auto), column-gutter: 4mm,
        [
          #text(size: 13pt, weight: 700, b.name) \
          #text(size: 8.5pt, fill: soft, b.place) \
          #text(size: 8.5pt)[#b.sheet-word · #b.scale-word] \
          #box(width: b.bar * 1mm, height: 2.2mm, stroke: 0.5pt + ink, fill: ink) #box(width: b.bar * 1mm, height: 2.2mm, stroke: 0.5pt + ink)
          #text(size: 7.5pt)[ 0 – #b.bar-word – #b.bar-word2]
        ],
        [
          #set text(size: 7pt)
          #set par(leading: 0.35em)
          #grid(columns: (14mm, 1fr, 14mm, 1fr, 14mm, 1fr), column-gutter: 1.2mm, row-gutter: 0.4mm,
            ..b.legend.map(l => (image(l.image, width: 14mm, height: 5mm), align(horizon, l.text))).flatten())
        ],
        rotate(b.north * 1deg, polygon(fill: ink, (4mm, 0mm), (7mm, 14mm), (4mm, 11mm), (1mm, 14mm)))
      )
    ])
    #place(bottom + right, dx: -2.5mm, dy: -2mm, text(size: 7pt, b.north-word))
  ]
}

#for b in d.blocks {
  if b.kind == "heading" { heading(level: b.level, b.text) }
  else if b.kind == "para" { par(b.text) }
  else if b.kind == "soft" { par(text(fill: soft, size: 8.5pt, b.text)) }
  else if b.kind == "caution" {
    block(width: 100%, breakable: false, inset: (x: 3mm, y: 2mm), stroke: (left: 2pt + watch, rest: 0.4pt + line-colour),
      [#text(weight: 700)[#b.word] #b.text])
  }
  else if b.kind == "list" { list(..b.items.map(i => [#i])) }
  else if b.kind == "ticks" {
    for i in b.items { block(breakable: false, above: 0.55em, below: 0.55em, grid(columns: (6mm, 1fr), tick, i)) }
  }
  else if b.kind == "steps" {
    for (n, i) in b.items.enumerate(start: b.first) {
      block(breakable: false, above: 0.6em, below: 0.6em, grid(columns: (8mm, 6mm, 1fr), text(weight: 700)[#n.], tick, i))
    }
  }
  else if b.kind == "table" {
    set text(size: b.size * 1pt)
    table(
      columns: b.columns.map(c => if c.wide > 0 { c.wide * 1fr } else { auto }),
      align: (x, _) => if b.columns.at(x).right { right } else { left },
      stroke: (x, y) => (bottom: 0.4pt + line-colour),
      inset: (x: 1.6mm, y: b.tall * 1mm),
      ..if b.columns.any(c => c.title != "") { (table.header(repeat: true, ..b.columns.map(c => text(fill: soft, c.title))),) },
      ..b.rows.flatten().map(c => if c == "☐" { tick } else { c }),
    )
  }
  else if b.kind == "sums" {
    grid(columns: (1fr, auto), row-gutter: 0.7em,
      ..b.rows.map(r => (text(weight: if r.bold { 700 } else { 400 }, r.text), align(right, text(weight: if r.bold { 700 } else { 400 }, r.sum)))).flatten())
  }
  else if b.kind == "image" { block(breakable: false, above: 0.4em, below: 0.4em, image(b.image, width: b.width * 1mm, alt: b.alt)) }
  else if b.kind == "break" { pagebreak(weak: true) }
  else if b.kind == "sheet" { sheet(b) }
}
