#import "common.typ": *
#let r = json("record.json")
#show: body => page-of(r, body)

#head(r, r.made)
#v(4pt)
#text(size: 12pt, weight: "bold", r.summary)

#table(
  columns: (26mm, 1fr),
  ..r.facts.map(((name, value)) => (text(fill: soft, name), value)).flatten(),
)

#if r.bodies.len() > 0 {
  heading(level: 2, "Cameras")
  rows(
    (40mm, 26mm, 24mm, 16mm, 1fr),
    ("Camera", "Serial number", "Looked at", "Visible", "To do"),
    r.bodies.map(b => (b.name, b.serial, b.looked, b.visible, b.words)),
  )
}

#if r.kit.len() > 0 {
  heading(level: 2, "Kit for one full cleaning per camera")
  rows((80mm, 26mm, 1fr), ("Thing", "Needs", "Enough"), r.kit)
}
