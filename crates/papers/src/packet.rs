//! The crew's packet: plan, boxes, trenches, cut lists, steps with a caution at each, tests, controller sheet, parts.
//! No prices.

use crate::Paper;
use crate::blocks::{Block, Column, Document};
use crate::lang::Lang;
use crate::sheets::sheets;
use fenlo_core::assembly::Train;
use fenlo_core::assess::{Assessment, assess};
use fenlo_core::job::Job;
use fenlo_core::plan::{AssemblyPlace, WaterSource};
use fenlo_core::runtime::{Evennesses, sheet};
use fenlo_core::site::PlaceKind;
use fenlo_core::takeoff::{LineKind, SettingOut, Takeoff, setting_out, takeoff};
use fenlo_core::units::Length;
use fenlo_core::zone::ZoneAssessment;
use fenlo_drawing::assembly;

/// Year that the controller sheet's days are reckoned for where none is known: any will do for minutes.
const YEAR: i32 = 2026;

struct Packet<'j> {
    job: &'j Job,
    known: Assessment,
    taken: Takeoff,
    lang: Lang,
    blocks: Vec<Block>,
    images: Vec<(String, String)>,
}

/// The plan alone, with its valve table.
pub(crate) fn plan(job: &Job, lang: Lang, paper: Paper) -> Document {
    let mut packet = Packet::new(job, lang);
    packet.plan(paper);
    packet.zones();
    packet.document(paper, "Plan")
}

/// Everything the crew carries.
pub(crate) fn packet(job: &Job, lang: Lang, paper: Paper) -> Document {
    let mut packet = Packet::new(job, lang);
    packet.cover();
    packet.plan(paper);
    packet.zones();
    packet.steps();
    packet.boxes();
    packet.setting_out();
    packet.trenches();
    packet.cuts();
    packet.tests();
    packet.controller();
    packet.parts();
    packet.document(paper, "Crew packet")
}

impl<'j> Packet<'j> {
    fn new(job: &'j Job, lang: Lang) -> Self {
        let known = assess(job);
        Self {
            taken: takeoff(job, &known),
            known,
            job,
            lang,
            blocks: Vec::new(),
            images: Vec::new(),
        }
    }

    fn document(self, paper: Paper, title: &str) -> Document {
        let (width, height) = paper.for_text();
        let lang = self.lang;
        Document {
            title: format!("{}: {}", lang.say(title), self.job.name),
            author: "Fenlo".into(),
            keywords: vec![lang.say(title).to_owned(), self.job.location.clone()],
            lang: lang.code(),
            foot: format!(
                "{}. {}",
                self.job.name,
                lang.say("Supports licensed practice and the local code; does not replace them.")
            ),
            page_word: lang.say("Page").to_owned(),
            width,
            height,
            blocks: self.blocks,
            images: self.images,
        }
    }

    fn put(&mut self, block: Block) {
        self.blocks.push(block);
    }
    fn heading(&mut self, level: u8, english: &str) {
        let text = self.lang.say(english);
        self.blocks.push(Block::heading(level, text));
    }
    fn caution(&mut self, english: &str) {
        self.blocks.push(Block::Caution {
            word: self.lang.say("Caution.").to_owned(),
            text: self.lang.say(english).to_owned(),
        });
    }
    fn columns(&self, columns: &[(&str, char)]) -> Vec<Column> {
        let made = columns.iter().map(|(title, kind)| {
            let title = self.lang.say(title);
            match kind {
                'r' => Column::right(title),
                'w' => Column::wide(title),
                _ => Column::left(title),
            }
        });
        made.collect()
    }

    fn cover(&mut self) {
        let job = self.job;
        self.put(Block::heading(1, job.name.clone()));
        if !job.location.is_empty() {
            self.put(Block::para(job.location.clone()));
        }
        let heads: u32 = job.groups.iter().map(fenlo_core::plan::HeadGroup::count).sum();
        let dug = self.taken.digging.length().show(job.units);
        let said = self.lang.with(
            "{} valves, {} heads and drip inlets, {} of trench.",
            &[&job.valves.len().to_string(), &heads.to_string(), &dug],
        );
        self.put(Block::para(said));
        if !job.local_code.is_empty() {
            self.heading(2, "Local code and permits, as noted");
            self.put(Block::para(job.local_code.clone()));
        }
        self.heading(2, "In this packet");
        let items = [
            "Plan to scale, valve table",
            "Steps, each with its caution",
            "Boxes and assemblies in the order of the flow",
            "Setting out",
            "Trenches and sleeves",
            "Cut lists",
            "Tests to be filled in",
            "Controller sheet",
            "Parts to be ticked off",
        ];
        let items = items.iter().map(|i| self.lang.say(i).to_owned()).collect();
        self.put(Block::List { items });
        let missing: Vec<String> = self.gaps();
        if !missing.is_empty() {
            self.heading(2, "Not settled yet");
            self.put(Block::List { items: missing });
        }
    }

    /// What the plan leaves open, in the reader's language.
    fn gaps(&self) -> Vec<String> {
        use fenlo_core::takeoff::Missing;
        let numbers = |ids: &[String]| {
            let all: Vec<String> = ids.iter().map(|v| self.job.valve_number(v).to_string()).collect();
            all.join(", ")
        };
        let lang = self.lang;
        self.taken
            .missing
            .iter()
            .map(|m| match m {
                Missing::Wire => lang
                    .say("Wire is not counted: no controller or main is drawn.")
                    .to_owned(),
                Missing::WireTo(ids) => lang.with(
                    "No main reaches valves {}: their wire is not counted.",
                    &[&numbers(ids)],
                ),
                Missing::DripNotLaid(ids) => {
                    let names: Vec<&str> = ids
                        .iter()
                        .filter_map(|i| Some(self.job.group(i)?.name.as_str()))
                        .collect();
                    lang.with("Drip of {} is not laid yet.", &[&names.join(", ")])
                }
                Missing::Main(ids) => lang.with("Pipe to valves {} is not drawn.", &[&numbers(ids)]),
                Missing::Unassigned(n) => lang.with("{} heads are on no valve.", &[&n.to_string()]),
                Missing::Straight(ids) => lang.with(
                    "Laterals of valves {} are not drawn: find the way on site.",
                    &[&numbers(ids)],
                ),
            })
            .collect()
    }

    fn plan(&mut self, paper: Paper) {
        if self.job.site.objects.is_empty() && self.job.groups.iter().all(|g| g.drawn.is_empty()) {
            return;
        }
        let (blocks, images) = sheets(self.job, self.lang, paper);
        self.blocks.extend(blocks);
        self.images.extend(images);
    }

    fn solved(&self, valve: &str) -> Option<&ZoneAssessment> {
        self.known.zone(valve).and_then(|z| z.zone.as_deref().ok())
    }

    fn zones(&mut self) {
        let u = self.job.units;
        self.put(Block::Break);
        self.heading(1, "Valve table");
        let columns = self.columns(&[
            ("Valve", 'r'),
            ("Zone", 'w'),
            ("Box", 'l'),
            ("Heads", 'r'),
            ("Flow", 'r'),
            ("At the last head", 'r'),
            ("Regulated", 'l'),
        ]);
        let rows = self.job.valves.iter().map(|v| {
            let zone = self.solved(&v.id);
            let heads: usize = self
                .job
                .groups
                .iter()
                .map(|g| g.heads_on(Some(&v.id)).len())
                .sum();
            let lowest = zone.and_then(|z| z.heads.get(z.worst));
            vec![
                self.job.valve_number(&v.id).to_string(),
                v.name.clone(),
                self.job
                    .box_of(v)
                    .and_then(|id| self.job.site.object(id))
                    .map_or_else(String::new, |o| o.title().to_owned()),
                heads.to_string(),
                zone.map_or_else(String::new, |z| z.flow.show(u)),
                lowest.map_or_else(String::new, |h| h.nozzle.show(u)),
                v.regulation
                    .set()
                    .map_or_else(|| self.lang.say("no").to_owned(), |s| s.show_round(u)),
            ]
        });
        let rows = rows.collect();
        self.put(Block::table(columns, rows));
    }

    /// The order of the work; a caution stands at the step where it matters.
    fn steps(&mut self) {
        self.put(Block::Break);
        self.heading(1, "Steps");
        let mut first = 1;
        let job = self.job;
        let drip = job.groups.iter().any(|g| {
            job.catalogue()
                .nozzle(&g.nozzle)
                .is_some_and(|n| n.kind.is_drip())
        });
        let heads = job.groups.iter().any(|g| {
            job.catalogue()
                .nozzle(&g.nozzle)
                .is_some_and(|n| !n.kind.is_drip())
        });
        let pvc = job
            .piping
            .legs
            .iter()
            .any(|l| l.pipe.material.starts_with("pvc") || l.pipe.material == "class-200");
        let poly = job.piping.legs.iter().any(|l| l.pipe.material.starts_with("pe")) || drip;
        let roots = self.taken.digging.by_hand().m() > 0.1;
        let mut part = |packet: &mut Self, title: &str, cautions: &[&str], items: Vec<&str>| {
            packet.heading(2, title);
            for caution in cautions {
                packet.caution(caution);
            }
            let items: Vec<String> = items.iter().map(|i| packet.lang.say(i).to_owned()).collect();
            let n = items.len();
            packet.put(Block::Steps { first, items });
            first += n;
        };
        part(
            self,
            "Before digging",
            &["Have buried services located and marked before any trench. Dig by hand near every mark."],
            vec![
                "Services located and marked: number of the ticket, date.",
                "Set out heads with flags of the valve’s number, boxes and trenches with paint; dry-lay before digging.",
                "Read the static pressure at the tap and write it on the test sheet.",
            ],
        );
        let mut digging = vec![
            "Dig as the trench list says; pipes of one trench lie side by side, not one on the other.",
            "Cross paving at a right angle, sleeve 1 ft (30 cm) beyond both edges, the spare sleeve capped.",
        ];
        if roots {
            digging.push("Among roots dig by hand; cut no root thicker than a thumb.");
        }
        part(
            self,
            "Trenches",
            &[
                "Trencher: guards on, gloves, eye protection; nobody beside a running chain. Trenches deeper than the code’s limit need shoring.",
            ],
            digging,
        );
        let mut pipe = vec!["Keep dirt out: cap every open end."];
        let mut cautions = vec!["Relieve pressure before opening anything."];
        if pvc {
            cautions.push("Primer and cement: fresh air, no flame, gloves.");
            pipe.push("PVC: cut square, take off burrs, prime both, cement, push home with a quarter turn, hold; no pressure before the tin’s time is over.");
            pipe.push("Threads: tape 4 to 5 turns the way it tightens; start by hand; hand-tight and a little. No wrench on plastic inside threads.");
        }
        if poly {
            pipe.push("Poly: let it warm in the sun, unroll it, do not pull it off the side of the coil; ends cut square, no shavings.");
        }
        pipe.push("Main first, with its shut-off; then boxes and valves, arrows with the flow, room to unscrew bowls; then laterals.");
        part(self, "Pipe, boxes, valves", &cautions, pipe);
        let mut backflow = vec![
            "Every connection to drinking water needs the backflow device the local code names, at its height, tested by a certified person.",
        ];
        if job
            .supplies
            .iter()
            .any(|s| !matches!(s.water, WaterSource::Street))
        {
            backflow
                .push("Water that is not drinking water: no cross-connection anywhere; mark every outlet.");
        }
        part(
            self,
            "Connection",
            &backflow,
            vec![
                "Install the backflow device where the plan shows it, before every valve; leave room for its test.",
            ],
        );
        part(
            self,
            "Flush and test, trenches open",
            &["Never stand over a fitting under test. Fill slowly."],
            vec![
                "Flush the main, then each lateral with its ends open, before nozzles and emitters go on, until it runs clear.",
                "Pressure test: look at every joint and thread, mend what weeps, write it down.",
            ],
        );
        if heads {
            part(
                self,
                "Heads",
                &["No water on walks, drives and walls: it makes them slippery and stains them."],
                vec![
                    "Heads level with the finished ground, on their swing joints; nozzle by the setting-out sheet.",
                    "Turn arcs and throws as planned; regulated bodies where the valve table says so.",
                ],
            );
        }
        if drip {
            part(
                self,
                "Drip",
                &[
                    "Punches and cutters: cut away from the hand. Tube on the ground trips people: pin it down or cover it.",
                ],
                vec![
                    "Lay rows as the cut list says, first emitter at the distance given; pin every 2 to 3 ft (60 to 90 cm) and at bends.",
                    "Flush with the ends open, then close them. Emitters on micro tube last: let it run 5 to 10 s first.",
                    "No cement and no tape on drip fittings; hand-tight.",
                ],
            );
        }
        part(
            self,
            "Wire and controller",
            &["Mains voltage and pumps: a licensed electrician. Low-voltage wire by the code."],
            vec![
                "Wire in the trench of the main, 24 in (60 cm) of slack in every box, waterproof connectors, spares capped and marked.",
                "Key in the controller sheet; label the valves in their boxes with the plan’s numbers.",
            ],
        );
        part(
            self,
            "Close and hand over",
            &[],
            vec![
                "Backfill without stones, compact in layers; drip trenches as dense as the ground beside them.",
                "Do the tests of the test sheet, write down what was read, sign.",
                "Plan as built: note what was laid otherwise.",
            ],
        );
    }

    fn boxes(&mut self) {
        if self.job.valves.is_empty() {
            return;
        }
        self.heading(1, "Boxes and assemblies");
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
            let title = if name.is_empty() {
                self.lang.say("Boxes not placed yet").to_owned()
            } else {
                name
            };
            self.put(Block::heading(2, title));
            for i in valves {
                let valve = &self.job.valves[i];
                let train = Train::of(self.job.catalogue(), valve);
                let number = self.job.valve_number(&valve.id);
                self.put(Block::heading(
                    3,
                    format!("{} {number}: {}", self.lang.say("Valve"), valve.name),
                ));
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
                    self.images
                        .push((image.clone(), assembly(&train, &[], self.job.units)));
                    self.put(Block::Image { image, width, alt });
                }
                self.put(Block::para(parts.join(" → ")));
            }
        }
    }

    fn setting_out(&mut self) {
        let sheets: Vec<SettingOut> = setting_out(self.job);
        if sheets.is_empty() {
            return;
        }
        self.heading(1, "Setting out");
        let text = self.lang.say("Run the tape along each edge from its corner, in the order in which the outline was drawn, A first. Flags carry the number of the valve.");
        self.put(Block::para(text));
        let u = self.job.units;
        for sheet in sheets {
            let title = match sheet.stick {
                Some(stick) => format!(
                    "{} ({})",
                    sheet.name,
                    self.lang.with("spacing stick {}", &[&stick.show_tape(u)])
                ),
                None => sheet.name.clone(),
            };
            self.put(Block::heading(2, title));
            let columns = self.columns(&[
                ("Head", 'r'),
                ("Flag", 'r'),
                ("From corner", 'l'),
                ("Along", 'r'),
                ("Off the edge", 'r'),
                ("Nozzle", 'w'),
            ]);
            let rows = sheet.heads.iter().map(|h| {
                let group = self.job.drawn_head(&h.head);
                let nozzle = group.and_then(|(g, head)| {
                    let n = self.job.catalogue().nozzle(&g.nozzle)?;
                    Some(format!("{}, {}°", self.lang.label(&n.label), head.arc))
                });
                vec![
                    h.number.to_string(),
                    h.flag.map_or_else(|| "–".into(), |f| f.to_string()),
                    corner(h.corner),
                    h.along.show_tape(u),
                    if h.off.m() > 0.0 {
                        h.off.show_tape(u)
                    } else {
                        "0".into()
                    },
                    nozzle.unwrap_or_default(),
                ]
            });
            let rows = rows.collect();
            self.put(Block::table(columns, rows));
        }
    }

    fn trenches(&mut self) {
        let dig = self.taken.digging.clone();
        if dig.rows.is_empty() {
            return;
        }
        let u = self.job.units;
        self.heading(1, "Trenches and sleeves");
        self.caution(
            "Have buried services located and marked before any trench. Dig by hand near every mark.",
        );
        let columns = self.columns(&[
            ("Trench", 'l'),
            ("Long", 'r'),
            ("Wide", 'r'),
            ("Deep", 'r'),
            ("By hand", 'r'),
            ("Pipes in it", 'w'),
            ("Done", 'l'),
        ]);
        let rows = dig.rows.iter().map(|t| {
            vec![
                t.id.clone(),
                t.length.show(u),
                t.width.show_tape(u),
                t.depth.show_tape(u),
                if t.by_hand.m() > 0.05 {
                    t.by_hand.show(u)
                } else {
                    String::new()
                },
                self.pipes_of(&t.legs),
                "☐".into(),
            ]
        });
        let rows = rows.collect();
        self.put(Block::table(columns, rows));
        let said = self.lang.with(
            "In all {}, {} of it by hand.",
            &[&dig.length().show(u), &dig.by_hand().show(u)],
        );
        self.put(Block::para(said));
        if !dig.crossings.is_empty() {
            self.heading(2, "Sleeves");
            let columns = self.columns(&[
                ("Under paving", 'l'),
                ("Long", 'r'),
                ("Sleeves", 'r'),
                ("Sleeve", 'w'),
            ]);
            let rows = dig.crossings.iter().map(|(leg, length, sleeved, n)| {
                let sleeve = self.job.piping.leg(leg).and_then(|l| l.sleeve.as_ref());
                let pipe = sleeve
                    .filter(|_| *sleeved)
                    .and_then(|s| self.job.catalogue().pipe(s));
                vec![
                    leg.clone(),
                    length.show_tape(u),
                    n.to_string(),
                    pipe.map_or_else(
                        || self.lang.say("none planned: ask").to_owned(),
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
                let whose = match leg.valve() {
                    Some(v) => self.job.valve_number(v).to_string(),
                    None => self.lang.say("main").to_owned(),
                };
                Some(format!("{} ({whose})", self.lang.label(&pipe.title())))
            })
            .collect();
        titles.dedup();
        titles.join(", ")
    }

    fn cuts(&mut self) {
        if self.taken.cuts.is_empty() {
            return;
        }
        let u = self.job.units;
        self.heading(1, "Cut lists");
        self.caution("Blades and cutters: cut away from the hand; gloves and eye protection.");
        let cuts = self.taken.cuts.clone();
        for list in &cuts {
            let title = self.lang.label(&list.title).into_owned();
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
            let said = self.lang.with("From {} lengths; {} left over.", &[&bars, &left]);
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
                "{}: micro tube {}: {}",
                &[
                    name(&tube.group),
                    &tube.length.show_tape(u),
                    &tube.count.to_string(),
                ],
            ));
        }
        if !made.is_empty() {
            self.heading(2, "Made up beforehand");
            self.put(Block::Ticks { items: made });
        }
    }

    /// Each test is a line with what the model predicts and room for what was read.
    fn tests(&mut self) {
        let u = self.job.units;
        self.put(Block::Break);
        self.heading(1, "Tests to be filled in");
        let text = self.lang.say("Within 3 psi (20 kPa) or 10 % of the prediction is fine. More: flow over and pressure under means a leak; flow under and pressure over a clog; both under a loss upstream.");
        self.put(Block::para(text));
        let columns = |packet: &Self| {
            let say = |english: &str| packet.lang.say(english).to_owned();
            vec![
                Column::share(say("Test"), 2.4),
                Column::right(say("Predicted")),
                Column::share(say("Read"), 1.0),
                Column::share(say("Who"), 0.8),
                Column::share(say("When"), 0.8),
            ]
        };
        let blank = |test: String, predicted: String| {
            vec![test, predicted, String::new(), String::new(), String::new()]
        };
        let mut rows = Vec::new();
        for supply in &self.known.supplies {
            if let Ok(point) = &supply.point {
                let rest = point.at_connection(fenlo_core::units::Flow::ZERO);
                let name = self.job.supply(&supply.id).map_or("", |s| s.name.as_str());
                rows.push(blank(
                    self.lang.with("Static pressure, {}", &[name]),
                    rest.show(u),
                ));
            }
        }
        for test in [
            "Services located before digging",
            "Main flushed until clear",
            "Laterals flushed, ends open",
            "Pressure and leak test, trenches open",
        ] {
            rows.push(blank(self.lang.say(test).to_owned(), String::new()));
        }
        let columns_now = columns(self);
        self.put(Block::form(columns_now, rows));
        let valves: Vec<(String, String)> = self
            .job
            .valves
            .iter()
            .map(|v| (v.id.clone(), v.name.clone()))
            .collect();
        self.heading(2, "Every zone, running");
        let mut rows = Vec::new();
        for (id, name) in &valves {
            let number = self.job.valve_number(id);
            let Some(zone) = self.solved(id) else { continue };
            let drip = zone.heads.first().is_some_and(|h| h.kind.is_drip());
            let (first, last) = (zone.heads.get(zone.best), zone.heads.get(zone.worst));
            rows.push(blank(
                self.lang
                    .with("{} {}: flow at the meter", &[&number.to_string(), name]),
                zone.flow.show(u),
            ));
            let (high, low) = if drip {
                (
                    "{} pressure at the first emitter",
                    "{} pressure at the last emitter",
                )
            } else {
                ("{} pressure at the best head", "{} pressure at the weakest head")
            };
            if let Some(h) = first.filter(|_| zone.heads.len() > 1) {
                rows.push(blank(
                    self.lang.with(high, &[&number.to_string()]),
                    h.nozzle.show(u),
                ));
            }
            if let Some(h) = last {
                rows.push(blank(
                    self.lang.with(low, &[&number.to_string()]),
                    h.nozzle.show(u),
                ));
            }
        }
        if !rows.is_empty() {
            let columns_now = columns(self);
            self.put(Block::form(columns_now, rows));
        }
        self.heading(2, "Before leaving");
        let items = [
            "Arcs and throws right; no water on walls and paving",
            "Flow controls tuned: closed until heads fail, then opened one and a half turns",
            "Every valve closes; nothing weeps at the lowest head; drains and flush valves shut",
            "Controller keyed in, valves labelled, plan as built, hand-over sheet given",
        ];
        let items = items.iter().map(|i| self.lang.say(i).to_owned()).collect();
        self.put(Block::Ticks { items });
    }

    fn controller(&mut self) {
        if self.job.valves.is_empty() {
            return;
        }
        let even = Evennesses::of(self.job, &self.known);
        let year = sheet(self.job, &self.known, &even, YEAR);
        self.heading(1, "Controller sheet");
        let mut columns = self.columns(&[("Prog", 'l'), ("Stn", 'r'), ("Zone", 'w'), ("Starts", 'l')]);
        columns.extend((1..=12).map(|m| Column::right(self.lang.month(m))));
        let mut rows = Vec::new();
        for (place, station) in year.peak.stations.iter().enumerate().filter(|(_, s)| !s.later) {
            let programme = year.programme(place);
            let window = &year.peak.night.window;
            let starts = programme.map_or_else(Vec::new, |(_, p)| {
                p.starts.iter().map(|s| window.clock(*s).to_string()).collect()
            });
            let mut row = vec![
                programme.map_or_else(String::new, |(letter, _)| letter.to_string()),
                station.number.to_string(),
                station.name.clone(),
                starts.join(" "),
            ];
            for month in &year.months {
                let own = &month.stations[place];
                let runs = own.runs();
                row.push(match (runs, own.cycles.count) {
                    (false, _) => "–".into(),
                    (_, 1) => own.cycles.minutes.to_string(),
                    (_, n) => format!("{n}×{}", own.cycles.minutes),
                });
            }
            rows.push(row);
        }
        self.put(Block::Table {
            size: 7.5,
            tall: 1.1,
            columns,
            rows,
        });
        let text = self.lang.say("Minutes of one watering by month; 2×8: two cycles of 8 minutes with the soil resting between. Look again two weeks after the start.");
        self.put(Block::Soft {
            text: text.to_owned(),
        });
    }

    fn parts(&mut self) {
        if self.taken.lines.is_empty() {
            return;
        }
        self.put(Block::Break);
        self.heading(1, "Parts to be ticked off");
        for kind in LineKind::ALL {
            let rows: Vec<Vec<String>> = self
                .taken
                .section(kind)
                .map(|l| {
                    let unit = self.lang.unit(&l.unit, l.quantity);
                    let piece = l.piece.map_or_else(String::new, |p| format!(" × {}", whole(p)));
                    let text = format!("{} {}", self.lang.label(&l.label), self.lang.size(&l.size));
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
            let text = self
                .lang
                .say("Several controllers are drawn: the list counts one.");
            self.put(Block::Soft {
                text: text.to_owned(),
            });
        }
    }
}

/// A length that is sold: whole feet or metres.
pub(crate) fn whole(length: Length) -> String {
    let (ft, m) = (length.ft(), length.m());
    if (ft - ft.round()).abs() < 1e-4 {
        format!("{ft:.0} ft")
    } else {
        format!("{m:.0} m")
    }
}

/// Corners are called by letters.
fn corner(n: usize) -> String {
    let letter = char::from(b'A' + (n % 26) as u8);
    if n < 26 {
        letter.to_string()
    } else {
        format!("{letter}{}", n / 26)
    }
}
