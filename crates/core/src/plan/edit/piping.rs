//! Pipe: joints and legs, and what of them can't be computed with.

use super::{Change, Edit, EditError, Listed, Put, Remove, Subject};
use crate::catalogue::PipeId;
use crate::plan::validate::Check;
use crate::plan::{Joint, LegOf, PipeLeg, Plan, TrenchRules};
use crate::site::{FURTHEST, Point};
use crate::terms::{Lang, term};
use rust_decimal::Decimal;
use serde::{Deserialize, Serialize};

/// Joints and legs of one job: bounds the work of an assessment.
const MOST_LEGS: usize = 12_000;
/// Bends of one leg.
const MOST_BENDS: usize = 200;

impl Listed for Joint {
    const WHAT: &'static str = "joint of the pipe";
    const KEY: &'static str = "joint";
    const REMOVE_WORDS: &'static str = "Joint removed";

    fn id(&self) -> &str {
        &self.id
    }
    fn list<'p>(plan: &'p mut Plan, _: Option<&str>) -> Result<&'p mut Vec<Self>, EditError> {
        Ok(&mut plan.piping.joints)
    }
    fn subject(_: Option<&str>, id: &str) -> Subject {
        Subject::Joint(id.to_owned())
    }
    fn put_words(&self) -> String {
        "Pipe joint".into()
    }
    fn put(put: Put<Self>) -> Edit {
        Edit::PutJoint(put)
    }
    fn remove(remove: Remove<Self>) -> Edit {
        Edit::RemoveJoint(remove)
    }
}

impl Listed for PipeLeg {
    const WHAT: &'static str = "pipe";
    const KEY: &'static str = "leg";
    const REMOVE_WORDS: &'static str = "Pipe removed";

    fn id(&self) -> &str {
        &self.id
    }
    fn list<'p>(plan: &'p mut Plan, _: Option<&str>) -> Result<&'p mut Vec<Self>, EditError> {
        Ok(&mut plan.piping.legs)
    }
    fn subject(_: Option<&str>, id: &str) -> Subject {
        Subject::Leg(id.to_owned())
    }
    fn put_words(&self) -> String {
        term(if self.is_main() { "pipe.main" } else { "pipe.lateral" }, Lang::En).into()
    }
    fn put(put: Put<Self>) -> Edit {
        Edit::PutLeg(put)
    }
    fn remove(remove: Remove<Self>) -> Edit {
        Edit::RemoveLeg(remove)
    }
}

/// Gives so many legs their sizes at one go.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct SizeLegs {
    /// Leg and pipe.
    pub sizes: Vec<(String, PipeId)>,
}

impl Change for SizeLegs {
    fn apply(&self, plan: &mut Plan) -> Result<Edit, EditError> {
        let mut was = Vec::with_capacity(self.sizes.len());
        for (id, pipe) in &self.sizes {
            let at = super::listed::position(&plan.piping.legs, id)?;
            let before = std::mem::replace(&mut plan.piping.legs[at].pipe, pipe.clone());
            was.push((id.clone(), before));
        }
        was.reverse();
        Ok(Edit::SizeLegs(Self { sizes: was }))
    }
    fn subjects(&self) -> Vec<Subject> {
        self.sizes.iter().map(|(id, _)| Subject::Leg(id.clone())).collect()
    }
    fn words(&self) -> String {
        format!("Sizes of {} pipes", self.sizes.len())
    }
}

/// Takes pipes up, with joints that only they had; gives the edits that lay them again.
pub(super) fn take_up(plan: &mut Plan, which: impl Fn(&PipeLeg) -> bool) -> Vec<Edit> {
    let mut back = Vec::new();
    let mut ends: Vec<String> = Vec::new();
    for at in (0..plan.piping.legs.len()).rev() {
        if which(&plan.piping.legs[at]) {
            let leg = plan.piping.legs.remove(at);
            ends.extend([leg.from.clone(), leg.to.clone()]);
            back.push(Edit::put_at(leg, Some(at)));
        }
    }
    for at in (0..plan.piping.joints.len()).rev() {
        let id = &plan.piping.joints[at].id;
        let still = plan.piping.legs.iter().any(|l| l.from == *id || l.to == *id);
        if ends.contains(id) && !still {
            let joint = plan.piping.joints.remove(at);
            back.push(Edit::put_at(joint, Some(at)));
        }
    }
    back.reverse();
    back
}

impl Check<'_> {
    fn on_the_plan(&mut self, path: String, at: Point) {
        if !(at.x.abs() <= FURTHEST && at.y.abs() <= FURTHEST) {
            self.fault(path, "is more than 10 km from the origin");
        }
    }

    /// The house's rules of trench and pipe.
    pub(in crate::plan) fn trench(&mut self, rules: &TrenchRules) {
        for (name, price) in
            [("price", rules.price), ("pipe", rules.pipe), ("tee", rules.tee), ("valve_box", rules.valve_box)]
        {
            if price < Decimal::ZERO || price > Decimal::from(100_000) {
                self.fault(format!("rules.trench.{name}"), "must be from 0 to 100,000");
            }
        }
        for (name, times) in [("rooted", rules.rooted), ("paved", rules.paved)] {
            if !(1.0..=100.0).contains(&times) {
                self.fault(format!("rules.trench.{name}"), "must be from 1 to 100");
            }
        }
        for (name, length, most_ft) in [
            ("crossing", rules.crossing, 1_000.0),
            ("off_buildings", rules.off_buildings, 50.0),
            ("main_depth", rules.main_depth, 20.0),
            ("lateral_depth", rules.lateral_depth, 20.0),
            ("sleeve_depth", rules.sleeve_depth, 20.0),
            ("frost_depth", rules.frost_depth, 20.0),
        ] {
            self.length(format!("rules.trench.{name}"), length, most_ft, true);
        }
        let volts = 1.0..=60.0;
        let wire = volts.contains(&rules.solenoid_volts) && volts.contains(&rules.controller_volts);
        if !wire || rules.solenoid_volts >= rules.controller_volts {
            let message = "must be from 1 to 60 V, less at the valve than at the controller";
            self.fault("rules.trench.solenoid_volts", message);
        }
        if !(0.01..=5.0).contains(&rules.solenoid_amps) {
            self.fault("rules.trench.solenoid_amps", "must be from 0.01 to 5 A");
        }
        if rules.spare_sleeves > 20 {
            self.fault("rules.trench.spare_sleeves", "must be at most 20");
        }
        if !(1..=1_000).contains(&rules.valves_for_a_spare) {
            self.fault("rules.trench.valves_for_a_spare", "must be from 1 to 1,000");
        }
        let known = |size: &String| self.catalogue.pipes.iter().any(|p| p.size == *size);
        if let Some(size) = rules.sizes.iter().find(|s| !known(s)) {
            let message = format!("unknown pipe size ‘{size}’. Use 3/4in, 1in, 32mm");
            self.fault("rules.trench.sizes", message);
        }
    }

    /// Joints and legs: sound figures, known pipes. Ends that are not there count as no end: the leg
    /// then leads nowhere, which is found, not refused.
    pub(in crate::plan) fn piping(&mut self, plan: &Plan) {
        let piping = &plan.piping;
        if piping.legs.len() > MOST_LEGS || piping.joints.len() > MOST_LEGS {
            let n = piping.legs.len().max(piping.joints.len());
            self.fault("piping", format!("has {n} entries; at most {MOST_LEGS} in one job"));
            return;
        }
        for (i, joint) in piping.joints.iter().enumerate() {
            self.on_the_plan(format!("piping.joints[{i}].at"), joint.at);
        }
        for (i, leg) in piping.legs.iter().enumerate() {
            let at = format!("piping.legs[{i}]");
            self.pipe(format!("{at}.pipe"), &leg.pipe);
            if let Some(sleeve) = &leg.sleeve {
                self.pipe(format!("{at}.sleeve"), sleeve);
            }
            if leg.from == leg.to {
                self.fault(format!("{at}.to"), "a pipe cannot end where it starts");
            }
            match &leg.of {
                LegOf::Main(supply) if plan.supply(supply).is_none() => {
                    self.fault(format!("{at}.of"), format!("point of connection ‘{supply}’ does not exist"));
                }
                LegOf::Lateral(valve) if plan.valve(valve).is_none() => {
                    self.fault(format!("{at}.of"), format!("valve ‘{valve}’ does not exist"));
                }
                _ => {}
            }
            if leg.bends.len() > MOST_BENDS {
                self.fault(format!("{at}.bends"), format!("has more than {MOST_BENDS} bends"));
            }
            for (k, bend) in leg.bends.iter().enumerate() {
                self.on_the_plan(format!("{at}.bends[{k}]"), *bend);
            }
            if let Some(depth) = leg.depth {
                self.length(format!("{at}.depth"), depth, 20.0, true);
            }
        }
    }
}
