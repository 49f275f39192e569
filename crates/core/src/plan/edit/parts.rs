//! Lines of the list of parts that hands added or changed.

use super::{Edit, EditError, Listed, Put, Remove, Subject};
use crate::plan::validate::{Check, MOST_ENTRIES};
use crate::plan::{PartLine, Plan};
use std::collections::HashSet;

/// More than any line has.
const MOST_OF_A_LINE: f64 = 1_000_000.0;

impl Listed for PartLine {
    const WHAT: &'static str = "parts list line";
    const KEY: &'static str = "line";
    const REMOVE_WORDS: &'static str = "Parts list line deleted";

    fn id(&self) -> &str {
        &self.id
    }
    fn list<'p>(plan: &'p mut Plan, _: Option<&str>) -> Result<&'p mut Vec<Self>, EditError> {
        Ok(&mut plan.parts.lines)
    }
    fn subject(_: Option<&str>, id: &str) -> Subject {
        Subject::PartLine(id.to_owned())
    }
    fn put_words(&self) -> String {
        match &self.part {
            Some(part) => format!("Quantity of {part}"),
            None => format!("Part: {}", self.text),
        }
    }
    fn put(put: Put<Self>) -> Edit {
        Edit::PutPartLine(put)
    }
    fn remove(remove: Remove<Self>) -> Edit {
        Edit::RemovePartLine(remove)
    }
}

impl Check<'_> {
    /// Lines by hand: named, counted, one for each counted part.
    pub(in crate::plan) fn parts(&mut self, plan: &Plan) {
        let lines = &plan.parts.lines;
        if lines.len() > MOST_ENTRIES {
            return self.fault(
                "parts.lines",
                format!("has {} entries; at most {MOST_ENTRIES} in one job", lines.len()),
            );
        }
        let mut seen = HashSet::new();
        let mut of = HashSet::new();
        for (i, line) in lines.iter().enumerate() {
            let at = format!("parts.lines[{i}]");
            if line.id.is_empty() || line.id.len() > 64 || !seen.insert(&line.id) {
                self.fault(format!("{at}.id"), format!("id ‘{}’ is already in use or reserved", line.id));
            }
            if line.part.as_ref().is_some_and(|p| !of.insert(p)) {
                self.fault(format!("{at}.part"), "is listed twice");
            }
            if line.part.as_ref().is_some_and(|p| p.len() > 120) {
                self.fault(format!("{at}.part"), "must be at most 120 characters");
            }
            if line.part.is_none() && line.text.trim().is_empty() {
                self.fault(format!("{at}.text"), "needs a description");
            }
            self.text(&format!("{at}.text"), &line.text, 120);
            self.text(&format!("{at}.unit"), &line.unit, 20);
            if !(0.0..=MOST_OF_A_LINE).contains(&line.quantity) {
                self.fault(format!("{at}.quantity"), "must be from 0 to 1000000");
            }
        }
    }

    /// What work and money are reckoned at.
    pub(in crate::plan) fn buying(&mut self, plan: &Plan) {
        let rules = &plan.rules.buying;
        let at = |name: &str| format!("rules.buying.{name}");
        for (name, share, most) in [
            ("waste", rules.waste, 0.5),
            ("overhead", rules.overhead, 5.0),
            ("margin", rules.margin, 0.9),
            ("tax", rules.tax, 1.0),
        ] {
            if !(0.0..=most).contains(&share) {
                self.fault(at(name), format!("must be from 0 to {}%", most * 100.0));
            }
        }
        self.length(at("lawn_rise"), rules.lawn_rise, 3.0, true);
        self.length(at("bed_rise"), rules.bed_rise, 3.0, true);
        self.length(at("stakes"), rules.stakes, 30.0, false);
        let hours = &rules.hours;
        for (name, hours) in [
            ("head", hours.head),
            ("valve", hours.valve),
            ("tube_ft", hours.tube_ft),
            ("emitter", hours.emitter),
            ("controller", hours.controller),
            ("connection", hours.connection),
            ("crossing", hours.crossing),
        ] {
            if !(0.0..=200.0).contains(&hours) {
                self.fault(at(&format!("hours.{name}")), "must be from 0 to 200 hours");
            }
        }
        let letters = |c: &str| c.len() == 3 && c.chars().all(|c| c.is_ascii_uppercase());
        if !letters(&rules.currency) {
            self.fault(at("currency"), "needs the three letters of a currency, e.g. USD");
        }
        for (name, sum) in [("hour", rules.hour), ("round_to", rules.round_to)] {
            if sum.is_sign_negative() || sum > 1_000_000.into() {
                self.fault(at(name), "must be from 0 to 1000000");
            }
        }
        if !(1..=3650).contains(&rules.valid_days) {
            self.fault(at("valid_days"), "must be from 1 to 3650 days");
        }
    }
}
