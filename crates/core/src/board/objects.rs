use crate::plan::{Edit, HeadGroup, Plan};
use crate::site::{ObjectKind, SiteObject};

/// Saves what an object is. Heads on an area have its plants, soil, sun and slope: what changes there
/// is handed to its groups, as one step.
pub fn save_object(plan: &Plan, object: SiteObject) -> Edit {
    let mut edits = vec![Edit::put(object.clone())];
    if let ObjectKind::Area(area) = &object.what {
        let groups = plan
            .groups
            .iter()
            .filter(|g| g.area.as_deref() == Some(&object.id));
        edits.extend(groups.filter_map(|g| {
            let next = HeadGroup {
                plants: area.kind.plants(),
                soil: area.soil,
                exposure: area.exposure,
                slope_percent: area.slope_percent,
                ..g.clone()
            };
            (next != *g).then_some(Edit::put(next))
        }));
    }
    if edits.len() == 1 {
        edits.remove(0)
    } else {
        Edit::batch(edits)
    }
}
