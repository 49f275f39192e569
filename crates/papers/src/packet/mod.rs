//! The crew's packet: plan, boxes, trenches, cut lists, steps with a caution at each, tests, controller
//! sheet, parts. No prices.

mod lists;
mod record;
mod steps;

use crate::Paper;
use crate::blocks::{Block, Column, Document};
use crate::lang::{Lang, Phrases};
use crate::sheets::sheets;
use fenlo_core::assess::{Assessment, assess};
use fenlo_core::job::Job;
use fenlo_core::takeoff::{Takeoff, takeoff};
use fenlo_core::units::Length;
use fenlo_core::zone::ZoneAssessment;

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
        Self { taken: takeoff(job, &known), known, job, lang, blocks: Vec::new(), images: Vec::new() }
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
                lang.say("Supports licensed professionals and local code; does not replace them.")
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
        let dug = self.taken.digging.length().show_whole(job.units);
        let said = self.lang.with(
            "Valves: {}. Heads and drip inlets: {}. Trench: {}.",
            &[&job.valves.len().to_string(), &heads.to_string(), &dug],
        );
        self.put(Block::para(said));
        if !job.local_code.is_empty() {
            self.heading(2, "Local code and permits (from job notes)");
            self.put(Block::para(job.local_code.clone()));
        }
        self.heading(2, "In this packet");
        let items = [
            "Plan to scale, valve table",
            "Steps, each with its caution",
            "Valve boxes and assemblies in flow order",
            "Head layout",
            "Trenches and sleeves",
            "Cut lists",
            "Test sheet",
            "Controller schedule",
            "Parts checklist",
        ];
        let items = items.iter().map(|i| self.lang.say(i).to_owned()).collect();
        self.put(Block::List { items });
        let missing: Vec<String> = self.gaps();
        if !missing.is_empty() {
            self.heading(2, "Open items");
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
                Missing::Wire => {
                    lang.say("Wire is not included: no controller or mainline is drawn.").to_owned()
                }
                Missing::WireTo(ids) => lang.with(
                    "Valves not reached by the mainline: {}. Their wire is not included.",
                    &[&numbers(ids)],
                ),
                Missing::DripNotLaid(ids) => {
                    let names: Vec<&str> =
                        ids.iter().filter_map(|i| Some(self.job.group(i)?.name.as_str())).collect();
                    lang.with("Drip in {} is not laid out yet.", &[&names.join(", ")])
                }
                Missing::Main(ids) => lang.with("Valves to which no pipe is drawn: {}.", &[&numbers(ids)]),
                Missing::Unassigned(n) => lang.with("Heads without a valve: {}.", &[&n.to_string()]),
                Missing::Straight(ids) => {
                    lang.with("Laterals not drawn, by valve: {}. Route them on site.", &[&numbers(ids)])
                }
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
            ("Valve box", 'l'),
            ("Heads", 'r'),
            ("Flow", 'r'),
            ("At the weakest head", 'r'),
            ("Regulator", 'l'),
        ]);
        let rows = self.job.valves.iter().map(|v| {
            let zone = self.solved(&v.id);
            let heads: usize = self.job.groups.iter().map(|g| g.heads_on(Some(&v.id)).len()).sum();
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
                v.regulation.set().map_or_else(|| self.lang.say("no").to_owned(), |s| s.show_round(u)),
            ]
        });
        let rows = rows.collect();
        self.put(Block::table(columns, rows));
    }
}

/// A length that is sold: whole feet or metres.
pub(crate) fn whole(length: Length) -> String {
    let (ft, m) = (length.ft(), length.m());
    if (ft - ft.round()).abs() < 1e-4 { format!("{ft:.0} ft") } else { format!("{m:.0} m") }
}
