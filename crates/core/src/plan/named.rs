//! Names that follow from others: a valve is called by the areas of its heads until somebody calls it
//! otherwise.

use super::{HeadGroup, Plan, Valve};

/// Areas of some heads as a valve is called by them.
pub fn area_name<'a>(groups: impl Iterator<Item = &'a HeadGroup>) -> String {
    let mut areas: Vec<&str> = Vec::new();
    for group in groups {
        if !areas.contains(&group.name.as_str()) {
            areas.push(&group.name);
        }
    }
    areas.truncate(3);
    areas.join(" + ")
}

/// A name without the number at its end.
pub fn name_base(name: &str) -> &str {
    let number = name.rsplit_once(' ').filter(|(_, n)| n.parse::<u32>().is_ok());
    number.map_or(name, |(base, _)| base)
}

/// Whether a valve is called by its areas, or as new ones are, and not by somebody.
pub fn is_named_by_area(plan: &Plan, valve: &Valve) -> bool {
    let own = area_name(plan.groups.iter().filter(|g| g.is_on(&valve.id)));
    let called = name_base(&valve.name);
    called == own || called == "Valve" || valve.name.trim().is_empty()
}
