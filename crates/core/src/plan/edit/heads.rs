//! Heads: groups of them, drawn ones one by one, and the valve that waters them.

use super::listed::position;
use super::{Change, Edit, EditError, Listed, Put, Remove, Subject};
use crate::catalogue::{Kind, Nozzle};
use crate::plan::validate::{Check, MOST_ENTRIES, MOST_HEADS};
use crate::plan::{DrawnHead, DripLaying, HeadGroup, HeadRef, Plan, Valve};
use crate::units::Length;
use serde::{Deserialize, Serialize};

/// Inlets of one group of drip.
const MOST_PARTS: usize = 64;
/// Emitters at one plant.
const MOST_AT_PLANT: u32 = 40;
/// Emitters and rows are no closer.
const LEAST_APART: Length = Length::from_m(0.05);

impl Listed for HeadGroup {
    const WHAT: &'static str = "group of heads";
    const KEY: &'static str = "group";
    const REMOVE_WORDS: &'static str = "Heads removed";

    fn id(&self) -> &str {
        &self.id
    }
    fn list<'p>(plan: &'p mut Plan, _: Option<&str>) -> Result<&'p mut Vec<Self>, EditError> {
        Ok(&mut plan.groups)
    }
    fn subject(_: Option<&str>, id: &str) -> Subject {
        Subject::Group(id.to_owned())
    }
    fn put_words(&self) -> String {
        format!("Heads of {}", self.name)
    }
    fn put(put: Put<Self>) -> Edit {
        Edit::PutGroup(put)
    }
    fn remove(remove: Remove<Self>) -> Edit {
        Edit::RemoveGroup(remove)
    }
}

impl Listed for DrawnHead {
    const WHAT: &'static str = "head on the plan";
    const KEY: &'static str = "head";
    const OWNER: Option<&'static str> = Some("group");
    const REMOVE_WORDS: &'static str = "Head deleted";

    fn id(&self) -> &str {
        &self.id
    }
    fn list<'p>(plan: &'p mut Plan, owner: Option<&str>) -> Result<&'p mut Vec<Self>, EditError> {
        let at = position(&plan.groups, owner.unwrap_or_default())?;
        Ok(&mut plan.groups[at].drawn)
    }
    fn subject(owner: Option<&str>, id: &str) -> Subject {
        Subject::Head(owner.unwrap_or_default().to_owned(), id.to_owned())
    }
    fn put_words(&self) -> String {
        "Head on the plan".into()
    }
    fn put(put: Put<Self>) -> Edit {
        Edit::PutHead(put)
    }
    fn remove(remove: Remove<Self>) -> Edit {
        Edit::RemoveHead(remove)
    }
}

/// Puts heads on a valve, or on none.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct AssignHeads {
    /// Which.
    pub heads: Vec<HeadRef>,
    /// The valve; none: none.
    pub valve: Option<String>,
}

impl Change for AssignHeads {
    fn apply(&self, plan: &mut Plan) -> Result<Edit, EditError> {
        if let Some(id) = &self.valve {
            position::<Valve>(&plan.valves, id)?;
        }
        let mut groups: Vec<&str> = self.heads.iter().map(|h| h.group.as_str()).collect();
        groups.sort_unstable();
        groups.dedup();
        let mut back = Vec::new();
        for id in groups {
            let at = position(&plan.groups, id)?;
            let group = &mut plan.groups[at];
            let here = || self.heads.iter().filter(|h| h.group == id);
            if let Some(head) = here().find(|h| h.index >= group.count()) {
                let id = format!("{} no. {}", group.name, head.index.saturating_add(1));
                return Err(EditError::Missing { what: "head", id });
            }
            back.push(Edit::put(group.clone()));
            let moved: Vec<u32> = here().map(|h| h.index).collect();
            group.reassign(
                |i, on| {
                    if moved.contains(&i) { self.valve.clone() } else { on.map(str::to_owned) }
                },
            );
        }
        Ok(Edit::batch(back))
    }
    fn subjects(&self) -> Vec<Subject> {
        let groups = self.heads.iter().map(|h| Subject::Group(h.group.clone()));
        let mut all: Vec<Subject> = groups.chain(self.valve.clone().map(Subject::Valve)).collect();
        all.dedup();
        all
    }
    fn words(&self) -> String {
        let n = self.heads.len();
        format!("{n} head{} moved", if n == 1 { "" } else { "s" })
    }
}

impl Check<'_> {
    pub(in crate::plan) fn group(&mut self, at: &str, group: &HeadGroup, plan: &Plan) {
        if group.name.trim().is_empty() {
            self.fault(format!("{at}.name"), "enter a name for the area");
        }
        self.text(&format!("{at}.name"), &group.name, 100);
        if !(0.0..=100.0).contains(&group.slope_percent) {
            self.fault(format!("{at}.slope_percent"), "must be from 0 to 100 percent");
        }
        self.length(format!("{at}.spacing"), group.spacing, 200.0, false);
        if let Some(rows) = group.row_spacing {
            self.length(format!("{at}.row_spacing"), rows, 200.0, false);
        }
        self.length(format!("{at}.distance"), group.distance, 5_000.0, true);
        self.rise(format!("{at}.rise"), group.rise);
        self.pipe(format!("{at}.pipe"), &group.pipe);
        if let Some(pipe) = &group.feed_pipe {
            self.pipe(format!("{at}.feed_pipe"), pipe);
        }
        let nozzle = self.catalogue.nozzle(&group.nozzle);
        if nozzle.is_none() {
            self.fault(
                format!("{at}.nozzle"),
                format!(
                    "nozzle ‘{}’ is not in the catalog. Examples: spray-12, rotator-20, rotor-3, \
                        dripline-0.6",
                    group.nozzle
                ),
            );
        }
        if group.is_drawn() {
            self.drawn(at, group, plan);
        } else if group.listed.is_empty() || group.count() == 0 {
            self.fault(format!("{at}.lots"), "enter 1 or more heads");
        }
        if group.listed.len() > MOST_ENTRIES {
            self.fault(format!("{at}.lots"), format!("at most {MOST_ENTRIES} entries"));
        }
        for (i, lot) in group.listed.iter().enumerate() {
            if lot.count == 0 || lot.count > MOST_HEADS {
                self.fault(format!("{at}.lots[{i}].count"), format!("must be from 1 to {MOST_HEADS}"));
            }
            self.arc(format!("{at}.lots[{i}].arc"), lot.arc, nozzle);
            if let Some(valve) = &lot.valve
                && plan.valve(valve).is_none()
            {
                self.fault(format!("{at}.lots[{i}].valve"), format!("valve ‘{valve}’ does not exist"));
            }
        }
        let rows = matches!(
            nozzle.map(|n| n.kind),
            Some(crate::catalogue::Kind::Dripline | crate::catalogue::Kind::Tape)
        );
        if let Some(laying) = &group.drip {
            self.drip(at, group, laying, nozzle);
        }
        match group.row {
            Some(_) if group.drip.is_some() => {
                self.fault(format!("{at}.row"), "use listed rows or drawn rows, not both")
            }
            None if rows && group.drip.is_none() => {
                self.fault(format!("{at}.row"), "dripline and tape need emitters per row and emitter spacing")
            }
            Some(_) if !rows && nozzle.is_some() => {
                self.fault(format!("{at}.row"), "only dripline and tape have rows")
            }
            Some(row) => {
                if row.emitters == 0 || row.emitters > 2_000 {
                    self.fault(format!("{at}.row.emitters"), "must be from 1 to 2000");
                }
                self.length(format!("{at}.row.emitter_spacing"), row.emitter_spacing, 20.0, false);
            }
            None => {}
        }
    }

    fn drip(&mut self, at: &str, group: &HeadGroup, laying: &DripLaying, nozzle: Option<&Nozzle>) {
        let kind = nozzle.map(|n| n.kind);
        if group.area.is_none() {
            self.fault(format!("{at}.area"), "choose the drawn area for this drip");
        }
        if group.drawn.is_empty() || group.drawn.len() > MOST_PARTS {
            let say = format!("drip needs 1 to {MOST_PARTS} inlets");
            self.fault(format!("{at}.drawn"), say);
        }
        match laying {
            DripLaying::Rows(rows) => {
                if kind.is_some_and(|k| !matches!(k, Kind::Dripline | Kind::Tape)) {
                    self.fault(format!("{at}.nozzle"), "rows need dripline or tape, such as dripline-0.6");
                }
                self.length(format!("{at}.drip.emitter_spacing"), rows.emitter_spacing, 20.0, false);
                if rows.emitter_spacing < LEAST_APART || group.spacing < LEAST_APART {
                    self.fault(
                        format!("{at}.drip.emitter_spacing"),
                        "emitter and row spacing must be at least 2 in (50 mm)",
                    );
                }
                self.length(format!("{at}.drip.edge"), rows.edge, 3.0, true);
                self.length(format!("{at}.drip.depth"), rows.depth, 1.0, true);
                if let Some(longest) = rows.longest {
                    self.length(format!("{at}.drip.longest"), longest, 5_000.0, false);
                    if longest < rows.emitter_spacing * 2.0 {
                        self.fault(format!("{at}.drip.longest"), "a row needs at least two emitters");
                    }
                }
                if rows.heading.is_some_and(|h| !(0.0..=180.0).contains(&h)) {
                    self.fault(format!("{at}.drip.heading"), "must be from 0 to 180 degrees");
                }
            }
            DripLaying::Plants(plants) => {
                if kind.is_some_and(|k| k != Kind::Emitter) {
                    self.fault(format!("{at}.nozzle"), "plants need point emitters, such as emitter-1");
                }
                let each = plants.other.iter().map(|o| o.each).chain([plants.each]);
                if each.flatten().any(|n| n == 0 || n > MOST_AT_PLANT) {
                    let say = format!("1 to {MOST_AT_PLANT} emitters per plant");
                    self.fault(format!("{at}.drip.each"), say);
                }
                if plants.basin.is_some_and(|v| !(v.litres() > 0.0 && v.litres() <= 10_000.0)) {
                    let say = "basin volume must be above zero, at most 10 m³ (2,600 gal)";
                    self.fault(format!("{at}.drip.basin"), say);
                }
                if plants.other.len() > MOST_ENTRIES {
                    self.fault(format!("{at}.drip.other"), format!("at most {MOST_ENTRIES} entries"));
                }
                for (i, other) in plants.other.iter().enumerate() {
                    let known = other.nozzle.as_deref().map(|n| self.catalogue.nozzle(n));
                    if known.is_some_and(|n| n.is_none_or(|n| n.kind != Kind::Emitter)) {
                        self.fault(
                            format!("{at}.drip.other[{i}].nozzle"),
                            "is not a point emitter in the catalog",
                        );
                    }
                }
            }
        }
    }

    fn arc(&mut self, path: String, arc: u16, nozzle: Option<&Nozzle>) {
        if let Some(nozzle) = nozzle
            && !(nozzle.arcs.0..=nozzle.arcs.1).contains(&arc)
        {
            let (low, high) = nozzle.arcs;
            let wanted = if low == high { format!("{low}°") } else { format!("{low}° to {high}°") };
            self.fault(path, format!("{} cannot be set to {arc}°: {wanted}", nozzle.label));
        }
    }

    fn drawn(&mut self, at: &str, group: &HeadGroup, plan: &Plan) {
        if !group.listed.is_empty() {
            self.fault(format!("{at}.lots"), "a group has listed or drawn heads, not both");
        }
        let nozzle = self.catalogue.nozzle(&group.nozzle);
        if group.drip.is_none() && nozzle.is_some_and(|n| n.radius.is_none()) {
            self.fault(format!("{at}.nozzle"), "heads on the plan need a spray or rotor nozzle");
        }
        for (i, head) in group.drawn.iter().enumerate() {
            let here = format!("{at}.drawn[{i}]");
            if !head.at.is_sound() {
                self.fault(format!("{here}.at"), "is outside the drawing area");
            }
            if !(0.0..=360.0).contains(&head.facing) {
                self.fault(format!("{here}.facing"), "enter 0 to 360 degrees");
            }
            self.arc(format!("{here}.arc"), head.arc, nozzle);
            let limits = nozzle.and_then(|n| Some((n.least_throw_of_a_job()?, n.radius?)));
            if let (Some(radius), Some((least, full))) = (head.radius, limits)
                && (radius.m() < least.m() - 1e-6 || radius.m() > full.m() + 1e-6)
            {
                let u = plan.units;
                self.fault(
                    format!("{here}.radius"),
                    format!("radius adjusts from {} down to {}", full.show(u), least.show(u)),
                );
            }
            if let Some(valve) = &head.valve
                && plan.valve(valve).is_none()
            {
                self.fault(format!("{here}.valve"), format!("valve ‘{valve}’ does not exist"));
            }
        }
    }
}
