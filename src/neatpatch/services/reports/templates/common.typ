#let soft = luma(75)

#let page-of(r, body) = {
  set document(title: r.title + ": " + r.made, author: r.letterhead.name)
  set text(lang: "en", region: "GB", font: "Libertinus Serif", size: 10pt)
  set page(
    paper: if r.letterhead.paper == "letter" { "us-letter" } else { "a4" },
    margin: (x: 18mm, top: 16mm, bottom: 18mm),
    footer: context text(size: 8pt, fill: soft)[
      #r.title, #r.made #h(1fr) Page #counter(page).display() of #counter(page).final().first()
    ],
  )
  set heading(numbering: none)
  show heading.where(level: 2): it => block(above: 11pt, below: 5pt, text(size: 11pt, weight: "bold", it.body))
  set par(leading: 0.55em, spacing: 0.7em)
  set table(stroke: none, inset: (x: 0pt, y: 3.2pt))
  body
}

#let head(r, below) = {
  grid(
    columns: (1fr, auto),
    align: (left + top, right + top),
    {
      heading(level: 1, text(size: 18pt, r.title))
      v(2pt)
      text(fill: soft, below)
    },
    {
      if sys.inputs.logo == "yes" {
        image("logo.png", height: 14mm, alt: "Logo")
      }
      if r.letterhead.name != "" { text(weight: "bold", r.letterhead.name); linebreak() }
      for part in r.letterhead.address.split("\n") { text(size: 9pt, part); linebreak() }
    },
  )
  line(length: 100%, stroke: 0.6pt)
}

#let rule() = line(length: 100%, stroke: 0.4pt + luma(150))

#let rows(columns, header, body) = table(
  columns: columns,
  align: left + top,
  column-gutter: 8pt,
  table.header(..header.map(h => text(size: 8.5pt, fill: soft, h))),
  table.hline(stroke: 0.4pt),
  ..body.flatten(),
)
