//! Valves and what is fitted to them.

use super::listed::position;
use super::{Change, Edit, EditError, Listed, Put, Remove, Subject};
use crate::catalogue::{Mounting, Role};
use crate::plan::validate::Check;
use crate::plan::{PartIs, Plan, Regulation, Valve};
use crate::units::{Pressure, UnitSystem};
use serde::{Deserialize, Serialize};

impl Listed for Valve {
    const WHAT: &'static str = "valve";
    const KEY: &'static str = "valve";
    const REMOVE_WORDS: &'static str = "Valve removed";

    fn id(&self) -> &str {
        &self.id
    }
    fn list<'p>(plan: &'p mut Plan, _: Option<&str>) -> Result<&'p mut Vec<Self>, EditError> {
        Ok(&mut plan.valves)
    }
    fn subject(_: Option<&str>, id: &str) -> Subject {
        Subject::Valve(id.to_owned())
    }
    fn put_words(&self) -> String {
        format!("Valve {}", self.name)
    }
    fn put(put: Put<Self>) -> Edit {
        Edit::PutValve(put)
    }
    fn remove(remove: Remove<Self>) -> Edit {
        Edit::RemoveValve(remove)
    }
    /// Its heads are then on none; its lateral and what was wished of its station are gone.
    fn let_go(plan: &mut Plan, id: &str) -> Vec<Edit> {
        let mut back = Vec::new();
        for group in plan.groups.iter_mut().filter(|g| g.is_on(id)) {
            back.push(Edit::put(group.clone()));
            group.reassign(|_, on| on.filter(|v| *v != id).map(str::to_owned));
        }
        back.extend(super::piping::take_up(plan, |leg| leg.valve() == Some(id)));
        back.extend(super::watering::forget(plan, id));
        back
    }
}

/// Fits, sets or removes the regulator of a zone.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct FitRegulation {
    /// The valve.
    pub valve: String,
    /// Where and how it regulates.
    pub regulation: Regulation,
}

impl Change for FitRegulation {
    fn apply(&self, plan: &mut Plan) -> Result<Edit, EditError> {
        let at = position(&plan.valves, &self.valve)?;
        let was = std::mem::replace(&mut plan.valves[at].regulation, self.regulation);
        Ok(Edit::fit(self.valve.clone(), was))
    }
    fn subjects(&self) -> Vec<Subject> {
        vec![Subject::Valve(self.valve.clone())]
    }
    fn words(&self) -> String {
        "Regulator".into()
    }
}

/// Parts of one assembly.
const MOST_PARTS: usize = 40;

impl Check<'_> {
    fn assembly(&mut self, at: &str, valve: &Valve) {
        let assembly = &valve.assembly;
        if assembly.parts.len() > MOST_PARTS {
            self.fault(format!("{at}.assembly.parts"), format!("at most {MOST_PARTS} parts"));
        }
        for (i, part) in assembly.parts.iter().enumerate() {
            let here = format!("{at}.assembly.parts[{i}]");
            if let PartIs::Part(id) = &part.is
                && self.catalogue.part(id).is_none()
            {
                self.fault(format!("{here}.is"), format!("part ‘{id}’ is not in the catalog"));
            }
            if let Some(set) = part.set {
                self.pressure(format!("{here}.set"), set);
            }
        }
        for own in [PartIs::Valve, PartIs::Filter, PartIs::Regulator] {
            if assembly.parts.iter().filter(|p| p.is == own).count() > 1 {
                self.fault(
                    format!("{at}.assembly.parts"),
                    "a zone has one valve, one filter and one regulator. List each once",
                );
            }
        }
        if let Some(height) = assembly.height {
            self.length(format!("{at}.assembly.height"), height, 10.0, true);
        }
        if let Some(room) = assembly.room {
            self.length(format!("{at}.assembly.room"), room, 10.0, false);
        }
    }

    pub(in crate::plan) fn valve(&mut self, at: &str, valve: &Valve, plan: &Plan) {
        self.text(&format!("{at}.name"), &valve.name, 100);
        if plan.supply(&valve.supply).is_none() {
            self.fault(
                format!("{at}.supply"),
                format!("point of connection ‘{}’ does not exist", valve.supply),
            );
        }
        if self.catalogue.device(&valve.model).map(|d| d.role) != Some(Role::Valve) {
            self.unknown_device(format!("{at}.model"), &valve.model, &[Role::Valve]);
        }
        if let Some(filter) = &valve.filter
            && self.catalogue.device(filter).map(|d| d.role) != Some(Role::Filter)
        {
            self.unknown_device(format!("{at}.filter"), filter, &[Role::Filter]);
        }
        self.assembly(at, valve);
        if let Some(main) = &valve.mainline {
            self.pipe(format!("{at}.mainline.pipe"), &main.pipe);
            self.length(format!("{at}.mainline.length"), main.length, 10_000.0, false);
            self.rise(format!("{at}.mainline.rise"), main.rise);
        }
        if let Some(set) = valve.regulation.set() {
            self.pressure(format!("{at}.regulation.set"), set);
            let mounting = match valve.regulation {
                Regulation::Valve { .. } => Mounting::Valve,
                Regulation::Inline { .. } => Mounting::Inline,
                _ => return,
            };
            let models = || self.catalogue.regulators_at(mounting);
            let ranges: Vec<_> = models().filter_map(|m| m.range).collect();
            let (low, high) = ranges
                .iter()
                .fold((Pressure::from_psi(f64::MAX), Pressure::ZERO), |(a, b), r| (a.min(r.0), b.max(r.1)));
            if !ranges.is_empty() {
                if !(low..=high).contains(&set) {
                    let range = format!(
                        "a valve-mounted regulator adjusts from {:.0} to {:.0} psi ({:.0} to {:.0} kPa)",
                        low.psi(),
                        high.psi(),
                        low.kpa(),
                        high.kpa()
                    );
                    self.fault(format!("{at}.regulation.set"), range);
                }
                return;
            }
            let made = |units: UnitSystem| {
                let mut all: Vec<Pressure> = models().flat_map(|m| m.presets_in(units)).collect();
                all.sort_by(|a, b| a.kpa().total_cmp(&b.kpa()));
                all.dedup_by(|a, b| (*a - *b).kpa().abs() < 0.01);
                all
            };
            let (psi, bar) = (made(UnitSystem::Us), made(UnitSystem::MetricBar));
            let near = |p: &Pressure| (*p - set).psi().abs() < 0.5;
            if !psi.iter().chain(&bar).any(near) {
                let psi: Vec<String> = psi.iter().map(|p| format!("{:.0}", p.psi())).collect();
                let bar: Vec<String> = bar.iter().map(|p| format!("{:.1}", p.kpa() / 100.0)).collect();
                let made =
                    format!("in-line regulators come in {} psi and {} bar", psi.join(", "), bar.join(", "));
                self.fault(format!("{at}.regulation.set"), made);
            }
        }
    }
}
