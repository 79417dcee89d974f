// Every document on paper: black on white, from blocks that formats/paper.py tells.
#let data = json(bytes(sys.inputs.data))
#let rule = 0.5pt + rgb("#777777")
#let small = 8pt

#let runs(text) = {
  for run in text { if run.at(0) == "strong" { strong(run.at(1)) } else { run.at(1) } }
}
#let box-to-tick(done: false) = box(width: 3.4mm, height: 3.4mm, stroke: 0.8pt, baseline: 0.6mm,
  if done { align(center + horizon, std.text(8pt, weight: 700, "×")) })
#let picture(p) = image(
  bytes(p.svg), format: "svg", alt: p.alt,
  width: if p.width == none { 100% } else { p.width * 1mm },
)

#let head(b) = {
  grid(
    columns: (1fr, auto), column-gutter: 4mm,
    { heading(level: 1, b.title); if b.under != "" { block(above: 1.6mm, b.under) } },
    align(right + bottom, b.right),
  )
  block(above: 1.2mm, below: 2.4mm, line(length: 100%, stroke: 1.2pt))
}

#let words(b) = {
  if b.look == "small" { block(std.text(small, runs(b.text))) }
  else if b.look == "lead" { block(std.text(13pt, runs(b.text))) }
  else if b.look == "accepted" { block(emph(runs(b.text))) }
  else if b.look == "cover" { v(30mm); block(below: 5mm, std.text(30pt, weight: 700, runs(b.text))) }
  else if b.look == "aid" {
    block(breakable: false, { line(length: 100%, stroke: 0.5pt); v(-1.4mm); std.text(small, runs(b.text)) })
  } else { block(runs(b.text)) }
}

#let points(b) = {
  if b.look == "cautions" {
    block(width: 100%, breakable: false, stroke: 0.8pt, inset: (x: 2.4mm, y: 2mm), {
      set std.text(8.5pt)
      let half = calc.ceil(b.items.len() / 2)
      let side(items) = if items.len() > 0 { list(..items.map(runs)) }
      grid(columns: (1fr, 1fr), column-gutter: 5mm,
        side(b.items.slice(0, half)), side(b.items.slice(half)))
    })
  } else if b.look == "cover" {
    block(below: 8mm, std.text(11pt, list(spacing: 2.4mm, ..b.items.map(runs))))
  } else { list(..b.items.map(runs)) }
}

#let frame(b) = block(width: 100%, stroke: 1.2pt, inset: (x: 5mm, y: 3.5mm), above: 8mm, below: 8mm,
  for t in b.texts { block(runs(t)) })

#let sheet-table(b) = {
  let count = b.widths.len() + if b.boxes { 1 } else { 0 }
  let widths = b.widths.map(w => if w == "auto" { auto } else { eval(w) })
  let cells = ()
  for row in b.rows {
    if type(row) == str {
      cells.push(table.cell(colspan: count, fill: rgb("#e4e4e4"), breakable: false, strong(row)))
    } else {
      if b.boxes { cells.push(box-to-tick()) }
      for (at, cell) in row.enumerate() {
        cells.push(if at in b.strong { std.text(weight: 600, runs(cell)) } else { runs(cell) })
      }
    }
  }
  let headed = if b.head.len() > 0 {
    (table.header(..(if b.boxes { ([],) } else { () }), ..b.head.map(h => std.text(weight: 600, h))),)
  } else { () }
  block(above: 2.6mm, below: 2.6mm, breakable: not b.together, {
    set std.text(8.5pt)
    if b.caption != "" { block(below: 1.2mm, sticky: true, strong(b.caption)) }
    table(
      columns: if b.boxes { (6mm,) + widths } else { widths },
      inset: (x: 1.4mm, y: 1mm), stroke: rule, ..headed, ..cells,
    )
  })
}

#let step(b) = block(width: 100%, breakable: false, above: 0mm, below: 0mm,
  stroke: (bottom: rule), inset: (y: 1.4mm), grid(
    columns: (6mm, 1fr), box-to-tick(done: b.done),
    { runs(b.title); for l in b.lines { linebreak(); l } },
  ))

#let kinds = (
  head: head, words: words, points: points, frame: frame, table: sheet-table, step: step,
  picture: picture,
  title: b => block(above: 4mm, below: 1.6mm, sticky: true, heading(level: 2, b.words)),
  beside: b => block(grid(columns: b.pictures.len(), column-gutter: 6mm, align: horizon,
    ..b.pictures.map(picture))),
)

#set document(title: data.title)
#set text(font: ("Overpass", "DejaVu Sans"), size: 9.5pt, lang: "en")
#set par(leading: 0.55em, spacing: 1.9mm)
#set block(spacing: 1.9mm)
#set list(spacing: 1.2mm, indent: 1mm)
#show heading.where(level: 1): set text(16pt, weight: 700)
#show heading.where(level: 2): set text(12pt, weight: 700)

#let foot = if data.foot == "" { none } else {
  context std.text(small, [#data.foot #h(1fr) page #counter(page).display() of #counter(page).final().first()])
}
#for s in data.sections {
  let p = s.page
  let sides = if p.width == none { (paper: p.paper, flipped: p.across) } else {
    (width: p.width * 1mm, height: p.height * 1mm)
  }
  let m = p.margin * 1mm
  page(
    ..sides, footer: if p.margin < 10 { none } else { foot },
    margin: (x: m, top: m, bottom: if p.margin < 10 { m } else { m + 3mm }),
    for b in s.blocks { (kinds.at(b.kind))(b) },
  )
}
