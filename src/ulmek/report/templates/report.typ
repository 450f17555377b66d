// The report of a run: everything it says is in report.json.
#let report = json("report.json")
#let ink = rgb("#2a2d33")
#let quiet = rgb("#6d6a62")
#let line-colour = rgb("#d8d3c4")
#let marks = (bad: rgb("#b23824"), watch: rgb("#a3781c"))

#set document(title: report.title)
#set page(
  paper: "a4", margin: (x: 18mm, top: 20mm, bottom: 18mm),
  header: context if counter(page).get().first() > 1 [
    #set text(8pt, fill: quiet)
    #report.title #h(1fr) #report.made
  ],
  footer: context [
    #set text(8pt, fill: quiet)
    #h(1fr) #counter(page).display("1 of 1", both: true)
  ],
)
#set text(9.5pt, fill: ink, font: "Libertinus Serif", hyphenate: true, lang: "en")
#set par(justify: false, leading: 0.6em)
#set heading(numbering: "1")
#show heading.where(level: 1): it => block(above: 1.6em, below: 0.8em, sticky: true, text(13pt, weight: "bold", it))

#let cell(content) = text(8pt, content)
#let figure-of(p, width) = block(breakable: false, above: 0.8em, below: 0.9em, {
  image(p.file, width: width)
  block(above: 4pt, text(8pt, fill: quiet, p.caption))
})
#let told(b) = {
  if b.kind == "words" {
    let colour = marks.at(b.mark, default: none)
    if colour == none { par(b.text) } else {
      block(inset: (left: 6pt, y: 3pt), stroke: (left: 2pt + colour), width: 100%, b.text)
    }
  } else if b.kind == "table" {
    set par(leading: 0.45em)
    block(above: 0.9em, below: 0.9em, table(
      columns: b.share.map(s => s * 1fr),
      align: (x, _) => if x in b.numbers { right } else { left },
      stroke: (x, y) => (bottom: if y == 0 { 0.8pt + ink } else { 0.4pt + line-colour }),
      inset: (x: 3pt, y: 3.2pt),
      table.header(..b.head.map(h => cell(strong(h)))),
      ..b.rows.flatten().map(c => cell(c)),
    ))
  } else if b.kind == "gallery" {
    grid(columns: (1fr, 1fr), gutter: 8pt, ..b.pictures.map(p => figure-of(p, 100%)))
  } else {
    figure-of(b, b.width * 100%)
  }
}
#block(below: 1.4em)[
  #text(9pt, fill: quiet)[#report.machine]
  #v(-4pt)
  #text(21pt, weight: "bold")[#report.title]
  #v(2pt)
  #text(8.5pt, fill: quiet)[#report.made #for (name, value) in report.facts [ · #name: #value ]]
  #v(-2pt)
  #line(length: 100%, stroke: 0.8pt + ink)
]

#for chapter in report.chapters {
  heading(chapter.title)
  for b in chapter.blocks { told(b) }
}
