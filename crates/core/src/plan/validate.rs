//! Every fault of a plan, located, before anything is computed with it. The checks of a domain stand
//! with its edits; here are what they share, and their order.

use super::{Fault, Plan};
use crate::catalogue::{Catalogue, PipeId, Role};
use crate::units::{Flow, Length, Pressure};
use rust_decimal::Decimal;
use std::collections::HashSet;

/// More heads than any one job has; bounds the work of an assessment.
pub(in crate::plan) const MOST_HEADS: u32 = 5_000;
pub(in crate::plan) const MOST_EMITTERS: u32 = 20_000;
pub(in crate::plan) const MOST_ENTRIES: usize = 500;
pub(in crate::plan) const MOST_OWN: usize = 300;

/// All faults, in the order of the file. Empty: the plan can be assessed.
pub fn validate(plan: &Plan, catalogue: &Catalogue) -> Vec<Fault> {
    let mut check = Check { faults: Vec::new(), catalogue };
    check.nozzles(plan);
    check.plan(plan);
    check.faults
}

/// Gathers faults with their places.
pub(in crate::plan) struct Check<'a> {
    pub faults: Vec<Fault>,
    pub catalogue: &'a Catalogue,
}

impl Check<'_> {
    pub(in crate::plan) fn fault(&mut self, path: impl Into<String>, message: impl Into<String>) {
        self.faults.push(Fault { path: path.into(), message: message.into() });
    }

    pub(in crate::plan) fn text(&mut self, path: &str, text: &str, most: usize) {
        if text.chars().count() > most {
            self.fault(path, format!("must be at most {most} characters"));
        }
    }

    pub(in crate::plan) fn length(&mut self, path: String, length: Length, most_ft: f64, zero: bool) {
        if length.m() < 0.0 || (!zero && length.m() == 0.0) {
            let least = if zero { "zero or more" } else { "more than zero" };
            self.fault(path, format!("must be {least}"));
        } else if length.ft() > most_ft {
            self.fault(
                path,
                format!(
                    "is over {most_ft} ft ({:.0} m). Check the value and unit",
                    Length::from_ft(most_ft).m()
                ),
            );
        }
    }

    pub(in crate::plan) fn rise(&mut self, path: String, rise: Length) {
        if rise.ft().abs() > 500.0 {
            self.fault(path, "is over 500 ft (152 m). Check the value and unit");
        }
    }

    pub(in crate::plan) fn pressure(&mut self, path: String, pressure: Pressure) {
        if pressure.kpa() <= 0.0 {
            self.fault(path, "must be more than zero");
        } else if pressure.psi() > 300.0 {
            self.fault(path, "is over 300 psi (20.7 bar). Check the value and unit");
        }
    }

    pub(in crate::plan) fn flow(&mut self, path: String, flow: Flow) {
        if flow.lpm() <= 0.0 {
            self.fault(path, "must be more than zero");
        } else if flow.gpm() > 5_000.0 {
            self.fault(path, "is over 5,000 gpm (18,900 L/min). Check the value and unit");
        }
    }

    pub(in crate::plan) fn pipe(&mut self, path: String, pipe: &PipeId) {
        if self.catalogue.pipe(pipe).is_none() {
            let sizes: Vec<&str> = self
                .catalogue
                .pipes
                .iter()
                .filter(|p| p.material == pipe.material)
                .map(|p| p.size.as_str())
                .collect();
            let known = if sizes.is_empty() {
                let mut materials: Vec<&str> =
                    self.catalogue.pipes.iter().map(|p| p.material.as_str()).collect();
                materials.dedup();
                format!("known materials: {}", materials.join(", "))
            } else {
                format!("{} sizes: {}", pipe.material, sizes.join(", "))
            };
            self.fault(path, format!("pipe ‘{pipe}’ is not in the catalog; {known}"));
        }
    }

    pub(in crate::plan) fn share(&mut self, path: &str, value: f64, most: f64) {
        if !(0.0..=most).contains(&value) {
            self.fault(path, format!("must be from 0 to {most}"));
        }
    }

    pub(in crate::plan) fn id(&mut self, path: String, id: &str, seen: &mut HashSet<String>) {
        let good = !id.is_empty()
            && id.len() <= 40
            && id.chars().all(|c| c.is_ascii_alphanumeric() || c == '-' || c == '_');
        if !good {
            self.fault(path, "must be 1 to 40 letters, digits, - or _");
        } else if !seen.insert(id.to_owned()) {
            self.fault(path, format!("‘{id}’ is used twice"));
        }
    }

    pub(in crate::plan) fn unknown_device(&mut self, path: String, model: &str, roles: &[Role]) {
        let known: Vec<&str> = self
            .catalogue
            .devices
            .iter()
            .filter(|d| roles.contains(&d.role))
            .map(|d| d.id.as_str())
            .collect();
        self.fault(path, format!("‘{model}’ is not one of {}", known.join(", ")));
    }

    fn plan(&mut self, plan: &Plan) {
        if plan.format != super::FORMAT {
            self.fault("format", format!("must be ‘{}’", super::FORMAT));
        }
        if plan.name.trim().is_empty() {
            self.fault("name", "enter a job name");
        }
        self.text("name", &plan.name, 200);
        self.text("place", &plan.location, 500);
        self.text("local_code", &plan.local_code, 5_000);
        if plan.controller_stations.is_some_and(|n| !(1..=1_000).contains(&n)) {
            self.fault("controller_stations", "must be from 1 to 1,000 stations");
        }
        let rules = &plan.rules;
        self.share("rules.flow_margin", rules.flow_margin, 0.9);
        for (name, flow, least) in [
            ("house_demand", rules.house_demand, 0.0),
            ("assumed_small", rules.assumed_small, 0.1),
            ("assumed_large", rules.assumed_large, 0.1),
        ] {
            if !(least..=2_000.0).contains(&flow.gpm()) {
                self.fault(
                    format!("rules.{name}"),
                    format!("must be from {least} to 2,000 gpm (7,600 L/min)"),
                );
            }
        }
        self.share("rules.meter_loss_share", rules.meter_loss_share, 1.0);
        self.share("rules.meter_flow_share", rules.meter_flow_share, 1.0);
        self.share("rules.spread", rules.spread, 1.0);
        self.share("rules.fittings", rules.fittings, 1.0);
        for (name, speed) in [
            ("service_metal", rules.service_metal),
            ("service_plastic", rules.service_plastic),
            ("velocity_watch", rules.velocity_watch),
            ("velocity_stop", rules.velocity_stop),
        ] {
            if !(0.1..=50.0).contains(&speed.fps()) {
                self.fault(format!("rules.{name}"), "must be from 0.1 to 50 ft/s");
            }
        }
        self.pressure("rules.regulator_room".into(), rules.regulator_room);
        self.pressure("rules.rule_of_thumb".into(), rules.rule_of_thumb);
        self.pressure("rules.drip_rating".into(), rules.drip_rating);
        for (name, price) in [
            ("price_module", rules.price_module),
            ("price_preset", rules.price_preset),
            ("price_body", rules.price_body),
            ("price_system", rules.price_system),
        ] {
            if price < Decimal::ZERO || price > Decimal::from(100_000) {
                self.fault(format!("rules.{name}"), "must be from 0 to 100,000");
            }
        }
        self.trench(&rules.trench);
        if !(0.0..=0.3).contains(&rules.peak_et.m()) {
            self.fault("rules.peak_et", "must be from 0 to 12 in (300 mm) a week");
        }
        if !(0.0..=53.0).contains(&rules.peak_weeks) {
            self.fault("rules.peak_weeks", "must be from 0 to 53 weeks");
        }
        for (list, n) in
            [("supplies", plan.supplies.len()), ("groups", plan.groups.len()), ("valves", plan.valves.len())]
        {
            if n > MOST_ENTRIES {
                self.fault(list, format!("has {n} entries; at most {MOST_ENTRIES} in one job"));
                return;
            }
        }
        crate::site::check(&plan.site, &mut self.faults);
        let mut seen = HashSet::new();
        let ids = plan
            .supplies
            .iter()
            .enumerate()
            .map(|(i, s)| (format!("supplies[{i}].id"), &s.id))
            .chain(plan.groups.iter().enumerate().map(|(i, g)| (format!("groups[{i}].id"), &g.id)))
            .chain(plan.groups.iter().enumerate().flat_map(|(i, g)| {
                g.drawn.iter().enumerate().map(move |(k, h)| (format!("groups[{i}].drawn[{k}].id"), &h.id))
            }))
            .chain(plan.site.objects.iter().enumerate().map(|(i, t)| (format!("site.things[{i}].id"), &t.id)))
            .chain(plan.valves.iter().enumerate().map(|(i, v)| (format!("valves[{i}].id"), &v.id)))
            .chain(
                (plan.piping.joints.iter().enumerate())
                    .map(|(i, j)| (format!("piping.joints[{i}].id"), &j.id)),
            )
            .chain(
                (plan.piping.legs.iter().enumerate()).map(|(i, l)| (format!("piping.legs[{i}].id"), &l.id)),
            );
        for (path, id) in ids {
            self.id(path, id, &mut seen);
        }
        for (i, supply) in plan.supplies.iter().enumerate() {
            self.supply(&format!("supplies[{i}]"), supply, &mut seen);
        }
        let (mut heads, mut emitters) = (0u32, 0u32);
        for (i, group) in plan.groups.iter().enumerate() {
            self.group(&format!("groups[{i}]"), group, plan);
            let here = group.listed.iter().fold(group.drawn.len() as u32, |n, l| n.saturating_add(l.count));
            heads = heads.saturating_add(here);
            let each = group.row.map_or(1, |r| r.emitters);
            emitters = emitters.saturating_add(here.saturating_mul(each));
        }
        if heads > MOST_HEADS || emitters > MOST_EMITTERS {
            self.fault(
                "groups",
                format!(
                    "has {heads} heads or rows and {emitters} emitters; the limit per job is {MOST_HEADS} \
                        and {MOST_EMITTERS}"
                ),
            );
        }
        for (i, valve) in plan.valves.iter().enumerate() {
            self.valve(&format!("valves[{i}]"), valve, plan);
        }
        self.piping(plan);
        self.watering(plan);
        self.parts(plan);
        self.buying(plan);
    }
}
