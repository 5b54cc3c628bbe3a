#import "common.typ": *
#let r = json("record.json")
#show: body => page-of(r, body)

#head(r, r.made)
#v(4pt)
#text(size: 12pt, weight: "bold", r.summary)

#table(
  columns: (32mm, 1fr),
  ..r.facts.map(((name, value)) => (text(fill: soft, name), value)).flatten(),
)

#if r.frames.len() > 0 {
  grid(
    columns: r.frames.map(_ => 1fr),
    column-gutter: 6mm,
    ..r.frames.map(f => {
      heading(level: 2, f.title)
      image(
        bytes(f.drawing),
        format: "svg",
        width: if r.frames.len() == 1 { 60% } else { 100% },
        alt: f.drawing_words,
      )
      v(-4pt)
      for line in f.words { text(size: 9pt, line); linebreak() }
    }),
  )
  text(size: 8.5pt, fill: soft)[
    As the picture is seen. Filled: visible in the work; open: not visible there. Dot: speck. Line: fibre. Two rings: droplet.
    Broad broken line: smear. Broken ring: place not certain.
  ]
}

#if r.same_sensor != "" { par(r.same_sensor) }

#if r.figures.len() > 0 {
  heading(level: 2, "Figures")
  let two = r.frames.len() == 2
  rows(
    if two { (44mm, 30mm, 30mm, 1fr) } else { (44mm, 34mm, 1fr) },
    if two { ("", "Before", "After", "What is not sure") } else { ("", "Measured", "What is not sure") },
    r.figures.map(f => (
      f.name,
      f.before,
      ..if two { (f.after,) } else { () },
      text(size: 8.5pt, fill: soft, f.sure),
    )),
  )
}

#if r.closeups.len() > 0 {
  heading(level: 2, "The worst spots, before and after")
  grid(
    columns: (1fr,) * r.closeups.len(),
    column-gutter: 4mm,
    ..r.closeups.map(c => {
      grid(
        columns: (1fr, 1fr),
        column-gutter: 1mm,
        ..("before", "after").map(side => if c.at(side) != none {
          image(c.at(side), width: 100%, alt: side + ": " + c.words)
        } else {
          rect(width: 100%, height: 18mm, stroke: 0.4pt + luma(150), align(
            center + horizon,
            text(size: 7pt, fill: soft)[no picture],
          ))
        }),
      )
      text(size: 8.5pt, c.words)
    }),
  )
}

#if r.steps.len() > 0 {
  heading(level: 2, "What was done")
  rows(
    (30mm, 28mm, 26mm, 1fr, 1fr),
    ("When", "Step", "Result", "By the frames around it", "How"),
    r.steps.map(s => (s.when, s.step, s.did, s.counts, s.used)),
  )
}

#if r.remarks != "" {
  heading(level: 2, "Remarks")
  par(r.remarks)
}

#heading(level: 2, "Next look")
#par(r.next_look)

#heading(level: 2, "Careful")
#list(..r.cautions)

#heading(level: 2, "What this cannot tell")
#set text(size: 8.5pt)
#list(..r.limits)
