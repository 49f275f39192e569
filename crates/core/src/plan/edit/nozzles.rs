//! Nozzles of the house, and what is on the truck.

use super::{Change, Edit, EditError, Listed, Put, Remove, Subject};
use crate::catalogue::{Catalogue, Kind, OwnNozzle};
use crate::plan::Plan;
use crate::plan::validate::{Check, MOST_OWN};
use serde::{Deserialize, Serialize};
use std::collections::HashSet;

impl Listed for OwnNozzle {
    const WHAT: &'static str = "company nozzle";
    const KEY: &'static str = "nozzle";
    const REMOVE_WORDS: &'static str = "Nozzle removed";

    fn id(&self) -> &str {
        &self.id
    }
    fn list<'p>(plan: &'p mut Plan, _: Option<&str>) -> Result<&'p mut Vec<Self>, EditError> {
        Ok(&mut plan.nozzles)
    }
    fn subject(_: Option<&str>, id: &str) -> Subject {
        Subject::Nozzle(id.to_owned())
    }
    fn put_words(&self) -> String {
        format!("Nozzle {}", self.label)
    }
    fn put(put: Put<Self>) -> Edit {
        Edit::PutNozzle(put)
    }
    fn remove(remove: Remove<Self>) -> Edit {
        Edit::RemoveNozzle(remove)
    }
}

/// Says which nozzles are on the truck.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct SetFavourites {
    /// Their ids.
    pub ids: Vec<String>,
}

impl Change for SetFavourites {
    fn apply(&self, plan: &mut Plan) -> Result<Edit, EditError> {
        let ids = std::mem::replace(&mut plan.favourites, self.ids.clone());
        Ok(Edit::SetFavourites(Self { ids }))
    }
    fn subjects(&self) -> Vec<Subject> {
        vec![Subject::Favourites]
    }
    fn words(&self) -> String {
        "Stocked nozzles".into()
    }
}

impl Check<'_> {
    /// Nozzles of the house: few, named apart, with charts that make sense.
    pub(in crate::plan) fn nozzles(&mut self, plan: &Plan) {
        if plan.nozzles.len() > MOST_OWN {
            return self.fault(
                "nozzles",
                format!("has {} entries; at most {MOST_OWN} in one job", plan.nozzles.len()),
            );
        }
        if plan.favourites.len() > MOST_OWN {
            return self
                .fault("favourites", format!("has {} entries; at most {MOST_OWN}", plan.favourites.len()));
        }
        let mut seen = HashSet::new();
        for (i, n) in plan.nozzles.iter().enumerate() {
            let at = format!("nozzles[{i}]");
            if n.id.is_empty()
                || n.id.len() > 64
                || Catalogue::builtin().nozzle(&n.id).is_some()
                || !seen.insert(&n.id)
            {
                self.fault(format!("{at}.id"), format!("id ‘{}’ is already in use or reserved", n.id));
            }
            if n.label.trim().is_empty() {
                self.fault(format!("{at}.label"), "enter a name");
            }
            self.text(&format!("{at}.label"), &n.label, 80);
            if matches!(n.kind, Kind::Dripline | Kind::Emitter | Kind::Tape | Kind::Bubbler) {
                self.fault(format!("{at}.kind"), "only spray and rotor heads have a chart");
            }
            if !(1..=200).contains(&n.chart.len()) {
                self.fault(format!("{at}.chart"), "has 1 to 200 rows");
            }
            for (j, row) in n.chart.iter().enumerate() {
                let at = format!("{at}.chart[{j}]");
                self.pressure(format!("{at}.pressure"), row.pressure);
                self.flow(format!("{at}.flow"), row.flow);
                self.length(format!("{at}.radius"), row.radius, 200.0, false);
                if !(20..=360).contains(&row.arc) {
                    self.fault(format!("{at}.arc"), "must be from 20 to 360 degrees");
                }
            }
            // A nozzle gives more where more presses on it.
            let fit = Catalogue::builtin().classes.iter().find(|k| k.kind == n.kind).and_then(|k| n.fit(k));
            if let Some(fit) = fit.filter(|f| !(0.0..=1.5).contains(&f.exponent) || !f.flow.lpm().is_finite())
            {
                self.fault(
                    format!("{at}.chart"),
                    format!(
                        "flow follows pressure to the power {:.2}; nozzles are between 0 and 1.5, usually \
                            0.5. Check the chart",
                        fit.exponent
                    ),
                );
            }
            if n.price.is_some_and(|p| p.is_sign_negative() || p > 1_000_000.into()) {
                self.fault(format!("{at}.price"), "must be from 0 to 1000000");
            }
        }
    }
}
