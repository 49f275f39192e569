//! What a proposed plan is, in a sentence or two for each area.

use crate::said::counted;
use crate::{drip_fault, drip_laid, estimate, how_laid_out, kind, layout_fault};
use fenlo_core::job::Job;
use fenlo_core::layout::YEARS;
use fenlo_core::plan::ChainPart;
use fenlo_core::planning::{Choice, KindFault, LayFault, Made, TenYears, Way};
use fenlo_core::units::{UnitSystem, Volume};
use fenlo_core::verdict::Total;
use std::collections::BTreeSet;

/// Other kinds that are told of an area.
const TOLD: usize = 3;

/// What was laid on an area.
pub fn made(made: &Made, job: &Job) -> String {
    match made {
        Made::Heads(proposal) => {
            let heads = counted(proposal.heads.len(), "head");
            format!("{heads}, {}", how_laid_out(proposal, job.units))
        }
        Made::Drip(drip) => drip_laid(job, &drip.group, &drip.parts),
    }
}

/// Why nothing was laid.
pub fn lay_fault(fault: &LayFault, u: UnitSystem) -> String {
    match fault {
        LayFault::Heads(fault) => layout_fault(fault, u),
        LayFault::Drip(fault) => drip_fault(fault, u),
        LayFault::Refused(why) => why.clone(),
    }
}

/// What an area was given, what else it could have, and what that would cost more.
pub fn choice(choice: &Choice, job: &Job) -> String {
    let (area, u) = (&choice.area, job.units);
    let name = job.site.object(area).map_or("", |t| t.title());
    let what = kind(choice.taken).to_lowercase();
    let what = if choice.taken.is_drip() { what } else { counted(choice.heads, &what) };
    let on = job.groups.iter().filter(|g| g.area.as_ref() == Some(area));
    let on: BTreeSet<&str> = on.flat_map(|g| g.heads().filter_map(|h| h.2)).collect();
    let on = if on.is_empty() { String::new() } else { format!(" on {}", counted(on.len(), "valve")) };
    let currency = &job.rules.buying.currency;
    let others: Vec<String> = choice.others.iter().take(TOLD).map(|w| way(w, currency)).collect();
    let mut said = format!("{name}: {what}{on}.");
    if !others.is_empty() {
        said += &format!(" Over {YEARS} years: {}.", others.join("; "));
    }
    for (ruled_out, KindFault::Pressure { has, wants }) in &choice.ruled_out {
        let name = kind(*ruled_out);
        said += &format!(" {name} needs {} and would get {}.", wants.show(u), has.show(u));
    }
    said
}

fn way(way: &Way, currency: &str) -> String {
    let name = kind(way.kind).to_lowercase();
    let money = match way.more {
        more if more.abs() < 0.5 => "the same cost".to_owned(),
        more if more < 0.0 => format!("{} less", estimate(-more, currency)),
        more => format!("{} more", estimate(more, currency)),
    };
    let Some(whole) = way.whole else {
        return if way.sound {
            format!("{name} about {money}")
        } else {
            format!("{name} leaves faults here")
        };
    };
    let grave = grave(&whole.found);
    let with = if grave.is_empty() { String::new() } else { format!(", but {grave}") };
    format!("{name} {money} with {} total{with}", counted(whole.valves, "valve"))
}

/// Findings that a plan should not have.
fn grave(found: &Total) -> String {
    let each = [(found.stop, "to stop for"), (found.fix, "to fix")];
    let told: Vec<String> = each.iter().filter(|e| e.0 > 0).map(|(n, what)| format!("{n} {what}")).collect();
    told.join(" and ")
}

/// What a plan changes at its points of connection: a system regulator put in, a backflow preventer in another size.
pub fn connections(before: &Job, after: &Job) -> Vec<String> {
    let label = |model: &str| after.catalogue().device(model).map_or(String::new(), |d| d.label.clone());
    let mut said = Vec::new();
    for supply in &after.supplies {
        let was = |id: &str| Some(&before.supply(&supply.id)?.chain.iter().find(|c| c.id == id)?.part);
        for item in &supply.chain {
            match (&item.part, was(&item.id)) {
                (ChainPart::Regulator { set }, None) => {
                    let set = set.show_round(after.units);
                    said.push(format!("{}: add a system regulator, set {set}.", supply.name));
                }
                (ChainPart::Device { model }, Some(ChainPart::Device { model: old })) if model != old => {
                    said.push(format!("{}: use {} instead of {}.", supply.name, label(model), label(old)));
                }
                _ => {}
            }
        }
    }
    said
}

/// What a plan costs over the years that plans are compared by.
pub fn ten_years(price: &TenYears, currency: &str, u: UnitSystem) -> String {
    format!(
        "{} of parts and labor, and {} of water a year ({}): {} over {YEARS} years.",
        estimate(price.first, currency),
        estimate(price.water_cost, currency),
        round(price.water, u).show(u),
        estimate(price.sum(), currency),
    )
}

/// A year's water to the hundred: nobody knows it better.
fn round(water: Volume, u: UnitSystem) -> Volume {
    let unit = match u {
        UnitSystem::Us => Volume::from_gal(1.0),
        UnitSystem::Metric | UnitSystem::MetricBar => Volume::from_litres(1.0),
    };
    let step = 100.0 * unit.litres();
    Volume::from_litres((water.litres() / step).round() * step)
}
