//! What the crew fills in, and what is keyed into the controller.

use super::{Packet, YEAR};
use crate::blocks::{Block, Column};
use crate::lang::Phrases;
use fenlo_core::runtime::{Evennesses, sheet};

impl Packet<'_> {
    /// Each test is a line with what the model predicts and room for what was read.
    pub(super) fn tests(&mut self) {
        let u = self.job.units;
        self.put(Block::Break);
        self.heading(1, "Test sheet");
        let text = self.lang.say(
            "Within 3 psi (20 kPa) or 10% of predicted is fine. Otherwise: flow high, pressure low = leak; \
                flow low, pressure high = clog; both low = loss upstream.",
        );
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
                rows.push(blank(self.lang.with("Static pressure, {}", &[name]), rest.show(u)));
            }
        }
        for test in [
            "Utilities located before digging",
            "Mainline flushed until clear",
            "Laterals flushed, ends open",
            "Pressure and leak test, trenches open",
        ] {
            rows.push(blank(self.lang.say(test).to_owned(), String::new()));
        }
        let columns_now = columns(self);
        self.put(Block::form(columns_now, rows));
        let valves: Vec<(String, String)> =
            self.job.valves.iter().map(|v| (v.id.clone(), v.name.clone())).collect();
        self.heading(2, "Every zone, running");
        let mut rows = Vec::new();
        for (id, name) in &valves {
            let number = self.job.valve_number(id);
            let Some(zone) = self.solved(id) else { continue };
            let drip = zone.heads.first().is_some_and(|h| h.kind.is_drip());
            let (first, last) = (zone.heads.get(zone.best), zone.heads.get(zone.worst));
            rows.push(blank(
                self.lang.with("{} {}: flow at the meter", &[&number.to_string(), name]),
                zone.flow.show(u),
            ));
            let (high, low) = if drip {
                ("{} pressure at the first emitter", "{} pressure at the last emitter")
            } else {
                ("{} highest nozzle pressure", "{} pressure at the weakest head")
            };
            if let Some(h) = first.filter(|_| zone.heads.len() > 1) {
                rows.push(blank(self.lang.with(high, &[&number.to_string()]), h.nozzle.show(u)));
            }
            if let Some(h) = last {
                rows.push(blank(self.lang.with(low, &[&number.to_string()]), h.nozzle.show(u)));
            }
        }
        if !rows.is_empty() {
            let columns_now = columns(self);
            self.put(Block::form(columns_now, rows));
        }
        self.heading(2, "Before leaving");
        let items = [
            "Arcs and radius correct; no water on walls or pavement",
            "Flow controls tuned: closed until heads fail, then opened one and a half turns",
            "Every valve closes; no leak at the lowest head; drains and flush valves closed",
            "Controller programmed, valves labeled, as-built plan and owner sheet handed over",
        ];
        let items = items.iter().map(|i| self.lang.say(i).to_owned()).collect();
        self.put(Block::Ticks { items });
    }

    pub(super) fn controller(&mut self) {
        if self.job.valves.is_empty() {
            return;
        }
        let even = Evennesses::of(self.job, &self.known);
        let year = sheet(self.job, &self.known, &even, YEAR);
        self.heading(1, "Controller schedule");
        let mut columns = self.columns(&[("Prog", 'l'), ("Stn", 'r'), ("Zone", 'w'), ("Starts", 'l')]);
        columns.extend((1..=12).map(|m| Column::right(self.lang.month(m))));
        let mut rows = Vec::new();
        for (place, station) in year.peak.stations.iter().enumerate().filter(|(_, s)| !s.later) {
            let programme = year.programme(place);
            let window = &year.peak.night.window;
            let starts = programme.map_or_else(Vec::new, |(_, p)| {
                p.starts.iter().map(|s| window.clock(*s).show(self.job.units)).collect()
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
        self.put(Block::Table { size: 7.5, tall: 1.1, columns, rows });
        let text = self.lang.say(
            "Minutes per watering by month. 2×8 means two 8-minute cycles with a soak between. Check again \
                two weeks after start-up.",
        );
        self.put(Block::Soft { text: text.to_owned() });
    }
}
