//! Lists to pick from.

use fenlo_core::catalogue::{Catalogue, PipeId, Role};
use fenlo_core::plan::Plan;
use fenlo_core::units::UnitSystem;

/// One entry of a list.
#[derive(Debug, Clone)]
pub struct Choice {
    pub value: String,
    pub label: String,
    pub chosen: bool,
}

/// Entries under a heading.
pub struct Group {
    pub label: String,
    pub options: Vec<Choice>,
}

/// Entries from (value, label) pairs.
pub fn of(pairs: &[(&str, &str)], chosen: &str) -> Vec<Choice> {
    pairs
        .iter()
        .map(|(v, l)| Choice {
            value: (*v).into(),
            label: (*l).into(),
            chosen: *v == chosen,
        })
        .collect()
}

/// The word of a plan's choice, e.g. `full-sun`.
pub fn word(value: &impl serde::Serialize) -> String {
    serde_json::to_value(value)
        .ok()
        .and_then(|v| v.as_str().map(str::to_owned))
        .unwrap_or_default()
}

pub fn pipes(chosen: Option<&PipeId>, none: Option<&str>) -> Vec<Choice> {
    let none = none.map(|label| Choice {
        value: String::new(),
        label: label.into(),
        chosen: chosen.is_none(),
    });
    let all = Catalogue::builtin().pipes.iter().map(|p| Choice {
        value: p.id().to_string(),
        label: p.title(),
        chosen: chosen == Some(&p.id()),
    });
    none.into_iter().chain(all).collect()
}

pub fn nozzles(catalogue: &Catalogue, chosen: &str, units: UnitSystem) -> Vec<Group> {
    let options = |kind| {
        let of_kind = catalogue.nozzles.iter().filter(move |n| n.kind == kind);
        of_kind
            .map(|n| Choice {
                value: n.id.clone(),
                label: fenlo_words::nozzle(n, units),
                chosen: n.id == chosen,
            })
            .collect()
    };
    catalogue
        .classes
        .iter()
        .map(|k| Group {
            label: k.label.clone(),
            options: options(k.kind),
        })
        .collect()
}

pub fn devices(roles: &[Role], chosen: &str, none: Option<&str>) -> Vec<Choice> {
    let none = none.map(|label| Choice {
        value: String::new(),
        label: label.into(),
        chosen: chosen.is_empty(),
    });
    let all = Catalogue::builtin()
        .devices
        .iter()
        .filter(|d| roles.contains(&d.role));
    none.into_iter()
        .chain(all.map(|d| Choice {
            value: d.id.clone(),
            label: d.label.clone(),
            chosen: d.id == chosen,
        }))
        .collect()
}

pub fn meters(chosen: &str, none: Option<&str>) -> Vec<Choice> {
    let none = none.map(|label| Choice {
        value: String::new(),
        label: label.into(),
        chosen: chosen.is_empty(),
    });
    let size = |s: &str| s.replace("in", " in").replace('-', " ");
    let all = Catalogue::builtin().meters.iter();
    none.into_iter()
        .chain(all.map(|m| Choice {
            value: m.size.clone(),
            label: size(&m.size),
            chosen: m.size == chosen,
        }))
        .collect()
}

pub fn supplies(plan: &Plan, chosen: &str) -> Vec<Choice> {
    plan.supplies
        .iter()
        .map(|s| Choice {
            value: s.id.clone(),
            label: s.name.clone(),
            chosen: s.id == chosen,
        })
        .collect()
}

pub fn valves(plan: &Plan, chosen: Option<&str>) -> Vec<Choice> {
    plan.valves
        .iter()
        .enumerate()
        .map(|(i, v)| Choice {
            value: v.id.clone(),
            label: format!("{} · {}", i + 1, v.name),
            chosen: chosen == Some(&v.id),
        })
        .collect()
}

pub const UNITS: [(&str, &str); 3] = [
    ("us", "psi, gpm, ft"),
    ("metric", "kPa, L/min, m"),
    ("metric-bar", "bar, L/min, m"),
];
pub const ARRANGEMENTS: [(&str, &str); 3] = [
    ("chain", "one after the other"),
    ("middle", "fed in the middle"),
    ("h", "two rows, as an H"),
];
pub const PLANTS: [(&str, &str); 6] = [
    ("lawn", "lawn"),
    ("bed", "bed"),
    ("hedge", "hedge"),
    ("trees", "trees"),
    ("vegetables", "vegetables"),
    ("containers", "containers"),
];
pub const EXPOSURES: [(&str, &str); 4] = [
    ("reflected-heat", "reflected heat"),
    ("full-sun", "full sun"),
    ("part-shade", "part shade"),
    ("shade", "shade"),
];
pub const SOILS: [(&str, &str); 7] = [
    ("clay", "clay"),
    ("silty-clay", "silty clay"),
    ("clay-loam", "clay loam"),
    ("loam", "loam"),
    ("sandy-loam", "sandy loam"),
    ("loamy-sand", "loamy sand"),
    ("sand", "sand"),
];
