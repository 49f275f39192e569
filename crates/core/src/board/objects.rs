use crate::plan::{Edit, HeadGroup, Plan, Valve, is_named_by_area};
use crate::site::{ObjectKind, SiteObject};

/// Saves what an object is. Heads on an area have its plants, soil, sun and slope: what changes there
/// is handed to its groups, as one step. A new name goes to its heads and their valves too, but for those
/// that somebody named otherwise.
pub fn save_object(plan: &Plan, object: SiteObject) -> Edit {
    let mut edits = vec![Edit::put(object.clone())];
    if let ObjectKind::Area(area) = &object.what {
        let old = plan.site.object(&object.id).map_or_else(String::new, |o| o.title().to_owned());
        let groups = plan.groups.iter().filter(|g| g.area.as_deref() == Some(&object.id));
        edits.extend(groups.filter_map(|g| {
            let next = HeadGroup {
                name: renamed(&g.name, &old, object.title()).unwrap_or_else(|| g.name.clone()),
                plants: area.kind.plants(),
                soil: area.soil,
                exposure: area.exposure,
                slope_percent: area.slope_percent,
                ..g.clone()
            };
            (next != *g).then_some(Edit::put(next))
        }));
        edits.extend(renamed_valves(plan, &object.id, &old, object.title()));
    }
    if edits.len() == 1 { edits.remove(0) } else { Edit::batch(edits) }
}

/// A name that was an area's, or began with it and a number, after the area is called otherwise.
fn renamed(name: &str, old: &str, new: &str) -> Option<String> {
    let rest = name.strip_prefix(old)?;
    let number = rest.strip_prefix(' ').is_some_and(|n| n.parse::<u32>().is_ok());
    (old != new && (rest.is_empty() || number)).then(|| format!("{new}{rest}"))
}

/// Valves of an area's heads that are called by it.
fn renamed_valves(plan: &Plan, area: &str, old: &str, new: &str) -> Vec<Edit> {
    let of_area = |g: &&HeadGroup| g.area.as_deref() == Some(area);
    let waters = |v: &&Valve| plan.groups.iter().filter(of_area).any(|g| g.is_on(&v.id));
    let valves = plan.valves.iter().filter(waters).filter(|v| is_named_by_area(plan, v));
    let next = valves.filter_map(|v| {
        let parts: Vec<String> = (v.name.split(" + "))
            .map(|part| renamed(part, old, new).unwrap_or_else(|| part.to_owned()))
            .collect();
        let name = parts.join(" + ");
        (name != v.name).then(|| Edit::put(Valve { name, ..v.clone() }))
    });
    next.collect()
}
