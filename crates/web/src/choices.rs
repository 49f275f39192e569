//! Lists to pick from.

use fenlo_core::catalogue::{Catalogue, PipeId, Role};
use fenlo_core::plan::{Clock, Plan};
use fenlo_core::units::{Flow, Length, Pressure, Speed, Surface, UnitSystem, Volume};

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
        .map(|(v, l)| Choice { value: (*v).into(), label: (*l).into(), chosen: *v == chosen })
        .collect()
}

/// An example beside a field, written in US units, as a job's own units say it: to two digits, as
/// anybody would write one.
/// A reference because templates give references.
pub fn hint(example: &str, u: &UnitSystem) -> String {
    let u = *u;
    if let Ok(clock) = example.parse::<Clock>() {
        return clock.show(u);
    }
    if !u.is_metric() {
        return example.to_owned();
    }
    let said = |text: &str| {
        let bare = text.trim();
        let pressure = bare.parse::<Pressure>().map(|p| (p.value(u), Pressure::unit(u)));
        let flow = bare.parse::<Flow>().map(|q| (q.lpm(), "L/min"));
        let speed = bare.parse::<Speed>().map(|v| (v.mps(), "m/s"));
        let length = bare.parse::<Length>().map(|l| match bare.ends_with("in") {
            true => (l.mm(), "mm"),
            false => (l.m(), "m"),
        });
        let volume = bare.parse::<Volume>().map(|v| match v.litres() {
            litres if litres < 1000.0 => (litres, "L"),
            litres => (litres / 1000.0, "m3"),
        });
        let surface = bare.parse::<Surface>().map(|s| (s.m2(), "m2"));
        let (value, unit) = pressure.or(flow).or(speed).or(surface).or(length).or(volume).ok()?;
        let decimals = (1.0 - value.abs().max(1e-9).log10().floor()).max(0.0) as usize;
        let text = format!("{value:.0$}", if value == 0.0 { 0 } else { decimals });
        let text = if text.contains('.') { text.trim_end_matches('0').trim_end_matches('.') } else { &text };
        Some(format!("{text} {unit}"))
    };
    // A pump's curve is several figures.
    let parts = example.split_inclusive([':', ';']);
    parts
        .map(|part| {
            let end = part.rfind([':', ';']).map_or("", |i| &part[i..]);
            let text = part.trim_end_matches([':', ';']);
            let blank = if text.starts_with(' ') { " " } else { "" };
            said(text).map_or_else(|| part.to_owned(), |s| format!("{blank}{s}{end}"))
        })
        .collect()
}

/// The things of a group of [`fenlo_core::terms`].
pub fn terms(group: &str, chosen: &str) -> Vec<Choice> {
    prefixed(group, "", chosen)
}

/// The same where their ids stand behind a prefix.
pub fn prefixed(group: &str, prefix: &str, chosen: &str) -> Vec<Choice> {
    let choice = |(id, name): (&'static str, &'static str)| {
        let value = format!("{prefix}{id}");
        Choice { chosen: value == chosen, value, label: name.to_owned() }
    };
    fenlo_core::terms::terms(group).map(choice).collect()
}

/// The word of a plan's choice, e.g. `full-sun`.
pub fn word(value: &impl serde::Serialize) -> String {
    serde_json::to_value(value).ok().and_then(|v| v.as_str().map(str::to_owned)).unwrap_or_default()
}

pub fn pipes(chosen: Option<&PipeId>, none: Option<&str>) -> Vec<Choice> {
    let none =
        none.map(|label| Choice { value: String::new(), label: label.into(), chosen: chosen.is_none() });
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
        .map(|k| Group { label: fenlo_words::kind(k.kind).to_owned(), options: options(k.kind) })
        .collect()
}

pub fn devices(roles: &[Role], chosen: &str, none: Option<&str>) -> Vec<Choice> {
    let none =
        none.map(|label| Choice { value: String::new(), label: label.into(), chosen: chosen.is_empty() });
    let all = Catalogue::builtin().devices.iter().filter(|d| roles.contains(&d.role));
    none.into_iter()
        .chain(all.map(|d| Choice { value: d.id.clone(), label: d.label.clone(), chosen: d.id == chosen }))
        .collect()
}

pub fn meters(chosen: &str, none: Option<&str>) -> Vec<Choice> {
    let none =
        none.map(|label| Choice { value: String::new(), label: label.into(), chosen: chosen.is_empty() });
    let size = |s: &str| s.replace("in", " in").replace('-', " ");
    let all = Catalogue::builtin().meters.iter();
    none.into_iter()
        .chain(all.map(|m| Choice { value: m.size.clone(), label: size(&m.size), chosen: m.size == chosen }))
        .collect()
}

pub fn supplies(plan: &Plan, chosen: &str) -> Vec<Choice> {
    plan.supplies
        .iter()
        .map(|s| Choice { value: s.id.clone(), label: s.name.clone(), chosen: s.id == chosen })
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

pub const UNITS: [(&str, &str); 3] =
    [("us", "psi, gpm, ft"), ("metric", "kPa, L/min, m"), ("metric-bar", "bar, L/min, m")];
#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn an_example_is_said_in_the_units_of_the_job() {
        let said = |example: &str| UnitSystem::ALL.map(|u| hint(example, &u));
        assert_eq!(said("62 psi"), ["62 psi", "427 kPa", "4.3 bar"]);
        assert_eq!(said("-3 ft"), ["-3 ft", "-0.91 m", "-0.91 m"]);
        assert_eq!(said("40 ft")[1], "12 m");
        assert_eq!(said("12 in")[1], "305 mm");
        assert_eq!(said("5 ft/s")[1], "1.5 m/s");
        assert_eq!(said("0 ft")[1], "0 m");
        assert_eq!((&*said("3000 gal")[1], &*said("5 gal")[1]), ("11 m3", "19 L"));
        assert_eq!(said("0 gpm:90 psi; 20 gpm:80 psi")[2], "0 L/min:6.2 bar; 76 L/min:5.5 bar");
        // What is no quantity is left.
        assert_eq!(said("same as lateral")[1], "same as lateral");
    }
}
