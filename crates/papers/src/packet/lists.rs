//! What is set out, dug, cut, put together and ticked off.

use super::{Packet, whole};
use crate::blocks::{Block, Column};
use crate::lang::Phrases;
use fenlo_core::assembly::Train;
use fenlo_core::plan::AssemblyPlace;
use fenlo_core::site::PlaceKind;
use fenlo_core::takeoff::{LineKind, SettingOut, setting_out};
use fenlo_core::units::Length;
use fenlo_drawing::assembly;

impl Packet<'_> {
    pub(super) fn boxes(&mut self) {
        if self.job.valves.is_empty() {
            return;
        }
        self.heading(1, "Valve boxes and assemblies");
        let mut by_box: Vec<(String, Vec<usize>)> = Vec::new();
        for (i, valve) in self.job.valves.iter().enumerate() {
            let name = match valve.assembly.stands {
                AssemblyPlace::Box => self.job.box_of(valve).map_or_else(String::new, |id| {
                    self.job.site.object(id).map_or(id, |o| o.title()).to_owned()
                }),
                _ => self.lang.say("Above ground").to_owned(),
            };
            match by_box.iter_mut().find(|b| b.0 == name) {
                Some(known) => known.1.push(i),
                None => by_box.push((name, vec![i])),
            }
        }
        for (name, valves) in by_box {
            let title =
                if name.is_empty() { self.lang.say("Boxes without a location").to_owned() } else { name };
            self.put(Block::heading(2, title));
            for i in valves {
                let valve = &self.job.valves[i];
                let train = Train::of(self.job.catalogue(), valve);
                let number = self.job.valve_number(&valve.id);
                self.put(Block::heading(3, format!("{} {number}: {}", self.lang.say("Valve"), valve.name)));
                let parts: Vec<String> = train
                    .members
                    .iter()
                    .map(|m| {
                        let label = self.lang.label(&m.label).into_owned();
                        match m.set {
                            Some(set) => format!("{label} ({})", set.show_round(self.job.units)),
                            None => label,
                        }
                    })
                    .collect();
                if train.members.len() > 1 {
                    let image = format!("assembly-{number}.svg");
                    // A part is about 24 mm wide on paper, more of them narrower.
                    let width = (24.0 * train.members.len() as f64).min(150.0);
                    let alt = parts.join(", ");
                    self.images.push((image.clone(), assembly(&train, &[], self.job.units)));
                    self.put(Block::Image { image, width, alt });
                }
                self.put(Block::para(parts.join(" → ")));
            }
        }
    }

    pub(super) fn setting_out(&mut self) {
        let sheets: Vec<SettingOut> = setting_out(self.job);
        if sheets.is_empty() {
            return;
        }
        self.heading(1, "Head layout");
        let text = self.lang.say(
            "Measure along each edge from its corner, in the order the outline was drawn, starting at A. \
                Flags show the valve number.",
        );
        self.put(Block::para(text));
        let u = self.job.units;
        for sheet in sheets {
            let title = match sheet.stick {
                Some(stick) => {
                    format!("{} ({})", sheet.name, self.lang.with("spacing stick {}", &[&stick.show_tape(u)]))
                }
                None => sheet.name.clone(),
            };
            self.put(Block::heading(2, title));
            let columns = self.columns(&[
                ("Head", 'r'),
                ("Flag", 'r'),
                ("From corner", 'l'),
                ("Distance along", 'r'),
                ("Distance from edge", 'r'),
                ("Nozzle", 'w'),
            ]);
            let rows = sheet.heads.iter().map(|h| {
                let group = self.job.drawn_head(&h.head);
                let nozzle = group.and_then(|(g, head)| {
                    let n = self.job.catalogue().nozzle(&g.nozzle)?;
                    Some(format!(
                        "{}, {}°",
                        self.lang.label(&fenlo_words::nozzle(n, self.job.units)),
                        head.arc
                    ))
                });
                vec![
                    h.number.to_string(),
                    h.flag.map_or_else(|| "–".into(), |f| f.to_string()),
                    corner(h.corner),
                    h.along.show_tape(u),
                    if h.off.m() > 0.0 { h.off.show_tape(u) } else { "0".into() },
                    nozzle.unwrap_or_default(),
                ]
            });
            let rows = rows.collect();
            self.put(Block::table(columns, rows));
        }
    }

    pub(super) fn trenches(&mut self) {
        let dig = self.taken.digging.clone();
        if dig.rows.is_empty() {
            return;
        }
        let u = self.job.units;
        self.heading(1, "Trenches and sleeves");
        self.caution("Have utilities located and marked before trenching. Hand-dig near every mark.");
        let columns = self.columns(&[
            ("Trench", 'l'),
            ("Length", 'r'),
            ("Width", 'r'),
            ("Depth", 'r'),
            ("Hand-dug", 'r'),
            ("Pipes", 'w'),
            ("Done", 'l'),
        ]);
        let rows = dig.rows.iter().map(|t| {
            vec![
                t.id.clone(),
                t.length.show(u),
                t.width.show_tape(u),
                t.depth.show_tape(u),
                if t.by_hand.m() > 0.05 { t.by_hand.show(u) } else { String::new() },
                self.pipes_of(&t.legs),
                "☐".into(),
            ]
        });
        let rows = rows.collect();
        self.put(Block::table(columns, rows));
        let said = self.lang.with("Total {}, {} hand-dug.", &[&dig.length().show(u), &dig.by_hand().show(u)]);
        self.put(Block::para(said));
        if !dig.crossings.is_empty() {
            self.heading(2, "Sleeves");
            let columns =
                self.columns(&[("Under pavement", 'l'), ("Length", 'r'), ("Sleeves", 'r'), ("Sleeve", 'w')]);
            let rows = dig.crossings.iter().map(|(leg, length, sleeved, n)| {
                let sleeve = self.job.piping.leg(leg).and_then(|l| l.sleeve.as_ref());
                let pipe = sleeve.filter(|_| *sleeved).and_then(|s| self.job.catalogue().pipe(s));
                vec![
                    leg.clone(),
                    length.show_tape(u),
                    n.to_string(),
                    pipe.map_or_else(
                        || self.lang.say("none planned: ask the designer").to_owned(),
                        |p| self.lang.label(&p.title()).into_owned(),
                    ),
                ]
            });
            let rows = rows.collect();
            self.put(Block::table(columns, rows));
        }
    }

    fn pipes_of(&self, legs: &[String]) -> String {
        let mut titles: Vec<String> = legs
            .iter()
            .filter_map(|id| {
                let leg = self.job.piping.leg(id)?;
                let pipe = self.job.catalogue().pipe(&leg.pipe)?;
                // A bare number behind a pipe would read as how many of it.
                let whose = match leg.valve() {
                    Some(v) => self.lang.with("valve {}", &[&self.job.valve_number(v).to_string()]),
                    None => self.lang.say("main").to_owned(),
                };
                Some(format!("{whose}: {}", self.lang.label(&pipe.title())))
            })
            .collect();
        titles.dedup();
        titles.join(", ")
    }

    pub(super) fn cuts(&mut self) {
        if self.taken.cuts.is_empty() {
            return;
        }
        let u = self.job.units;
        self.heading(1, "Cut lists");
        self.caution("Blades and cutters: cut away from the hand; gloves and eye protection.");
        let cuts = self.taken.cuts.clone();
        for list in &cuts {
            let label = fenlo_words::cut_label(list, self.job);
            let title = format!("{} {}", self.lang.label(&label), self.lang.size(&list.size));
            self.put(Block::heading(2, title));
            let rows = list.pieces.iter().any(|p| p.first.is_some());
            let cells = |(length, n, first): (Length, usize, Option<Length>)| {
                let mut row = vec![n.to_string(), length.show_tape(u)];
                if rows {
                    row.push(first.map_or_else(String::new, |f| f.show_tape(u)));
                }
                row.push("☐".into());
                row
            };
            let made: Vec<Vec<String>> = list.grouped().into_iter().map(cells).collect();
            let columns = || {
                let mut all = self.columns(&[("Pieces", 'r'), ("Length", 'r')]);
                if rows {
                    all.extend(self.columns(&[("First emitter at", 'r')]));
                }
                all.push(Column::left(self.lang.say("Done")));
                all
            };
            let table = Block::side_by_side(columns, made, if rows { 3 } else { 4 });
            self.put(table);
            let bars = list.bars.len().to_string();
            let left = list.left().show_tape(u);
            let said = self.lang.with("Sticks or coils used: {}; left over: {}.", &[&bars, &left]);
            self.put(Block::Soft { text: said });
        }
        let mut made: Vec<String> = Vec::new();
        let name = |id: &str| self.job.group(id).map_or("", |g| g.name.as_str());
        for row in &self.taken.rows {
            made.push(self.lang.with(
                "{}: rows {}: {}, first emitter at {}",
                &[
                    name(&row.group),
                    &row.length.show_tape(u),
                    &row.count.to_string(),
                    &row.first.show_tape(u),
                ],
            ));
        }
        for tube in &self.taken.micro {
            made.push(self.lang.with(
                "{}: micro tubing {}: {}",
                &[name(&tube.group), &tube.length.show_tape(u), &tube.count.to_string()],
            ));
        }
        if !made.is_empty() {
            self.heading(2, "Preassembled parts");
            self.put(Block::Ticks { items: made });
        }
    }

    pub(super) fn parts(&mut self) {
        if self.taken.lines.is_empty() {
            return;
        }
        self.put(Block::Break);
        self.heading(1, "Parts checklist");
        for kind in LineKind::ALL {
            let rows: Vec<Vec<String>> = self
                .taken
                .section(kind)
                .map(|l| {
                    let unit = self.lang.unit(&l.unit, l.quantity);
                    let piece = l.piece.map_or_else(String::new, |p| format!(" × {}", whole(p)));
                    let text = format!(
                        "{} {}",
                        self.lang.label(&fenlo_words::part_label(l, self.job)),
                        self.lang.size(&l.size)
                    );
                    vec![
                        "☐".into(),
                        format!("{} {unit}{piece}", fenlo_words::quantity(l.quantity)),
                        text.trim().to_owned(),
                    ]
                })
                .collect();
            if rows.is_empty() {
                continue;
            }
            let title = self.lang.section(kind);
            self.put(Block::heading(2, title));
            let columns = vec![Column::left(""), Column::right(""), Column::wide("")];
            self.put(Block::table(columns, rows));
        }
        let controllers = self.job.site.places(PlaceKind::Controller).count();
        if controllers > 1 {
            let text = self.lang.say("Several controllers are drawn; the list includes one.");
            self.put(Block::Soft { text: text.to_owned() });
        }
    }
}

/// Corners are called by letters.
fn corner(n: usize) -> String {
    let letter = char::from(b'A' + (n % 26) as u8);
    if n < 26 { letter.to_string() } else { format!("{letter}{}", n / 26) }
}
