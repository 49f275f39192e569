//! What a person did, as a value: applied to a plan it gives the next plan and its own inverse.

use super::{
    DrawnHead, Fault, HeadGroup, HeadRef, HouseRules, Plan, Regulation, School, Supply, Tables, Valve,
    validate,
};
use crate::catalogue::{Catalogue, OwnNozzle};
use crate::site::{Thing, Underlay};
use crate::units::UnitSystem;
use serde::{Deserialize, Serialize};

/// One change. `at` is the place in its list; at the end where absent.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(tag = "edit", rename_all = "kebab-case")]
pub enum Edit {
    /// Name, place, notes, units.
    SetJob {
        name: String,
        place: String,
        local_code: String,
        units: UnitSystem,
    },
    /// The house's rules.
    SetRules { rules: HouseRules },
    /// Adds a point of connection or replaces it.
    PutSupply { supply: Supply, at: Option<usize> },
    /// Takes it away; its valves must be gone or moved first.
    RemoveSupply { id: String },
    /// Pins a school of design flow, or none.
    PinDesignFlow { supply: String, school: Option<School> },
    /// Adds a group of heads or replaces it.
    PutGroup { group: HeadGroup, at: Option<usize> },
    /// Takes a group away.
    RemoveGroup { id: String },
    /// Adds a valve or replaces it.
    PutValve { valve: Valve, at: Option<usize> },
    /// Takes a valve away; its heads are then on none.
    RemoveValve { id: String },
    /// Puts heads on a valve, or on none.
    AssignHeads {
        heads: Vec<HeadRef>,
        valve: Option<String>,
    },
    /// Fits, sets or removes the regulator of a zone.
    FitRegulation { valve: String, regulation: Regulation },
    /// Draws a thing on the ground or replaces it.
    PutThing { thing: Thing, at: Option<usize> },
    /// Takes a thing off the ground. What refers to it counts as referring to nothing.
    RemoveThing { id: String },
    /// Degrees from the top of the sheet to north, clockwise.
    SetNorth { degrees: f64 },
    /// Lays a picture beneath the drawing, or none.
    SetUnderlay { underlay: Option<Underlay> },
    /// Places a head on the board or replaces it.
    PutHead {
        group: String,
        head: DrawnHead,
        at: Option<usize>,
    },
    /// Takes a head off the board.
    RemoveHead { group: String, id: String },
    /// Adds a nozzle of the house or replaces it.
    PutNozzle { nozzle: OwnNozzle },
    /// Takes a nozzle of the house away; nothing may use it.
    RemoveNozzle { id: String },
    /// Says which nozzles are on the truck.
    SetFavourites { ids: Vec<String> },
    /// Several changes as one step.
    Batch { edits: Vec<Edit> },
}

/// What an edit changes: two people's edits collide when these meet.
#[derive(Debug, Clone, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub enum Subject {
    Job,
    Rules,
    Supply(String),
    Group(String),
    Valve(String),
    Thing(String),
    North,
    Underlay,
    Nozzle(String),
    Favourites,
    /// Group and head.
    Head(String, String),
}

impl Subject {
    /// True if a change of one may not stand beside a change of the other: they are the same, or
    /// one is a head of the other.
    pub fn meets(&self, other: &Self) -> bool {
        match (self, other) {
            (Self::Group(g), Self::Head(of, _)) | (Self::Head(of, _), Self::Group(g)) => g == of,
            _ => self == other,
        }
    }
}

/// Why an edit can't be applied.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum EditError {
    /// What it changes is not there (any more).
    #[error("there is no {what} ‘{id}’ in this job any more")]
    Missing { what: &'static str, id: String },
    /// A point of connection still feeds valves.
    #[error("valves still hang on ‘{id}’: move or remove them first")]
    StillUsed { id: String },
    /// The plan would hold figures that can't be computed with.
    #[error("{}", .0.iter().map(ToString::to_string).collect::<Vec<_>>().join("; "))]
    Faults(Vec<Fault>),
}

impl Edit {
    /// What it changes.
    pub fn subjects(&self) -> Vec<Subject> {
        match self {
            Self::SetJob { .. } => vec![Subject::Job],
            Self::SetRules { .. } => vec![Subject::Rules],
            Self::PutSupply { supply, .. } => vec![Subject::Supply(supply.id.clone())],
            Self::RemoveSupply { id } | Self::PinDesignFlow { supply: id, .. } => {
                vec![Subject::Supply(id.clone())]
            }
            Self::PutGroup { group, .. } => vec![Subject::Group(group.id.clone())],
            Self::RemoveGroup { id } => vec![Subject::Group(id.clone())],
            Self::PutValve { valve, .. } => vec![Subject::Valve(valve.id.clone())],
            Self::RemoveValve { id } | Self::FitRegulation { valve: id, .. } => {
                vec![Subject::Valve(id.clone())]
            }
            Self::AssignHeads { heads, valve } => {
                let mut subjects: Vec<Subject> =
                    heads.iter().map(|h| Subject::Group(h.group.clone())).collect();
                subjects.dedup();
                subjects.extend(valve.clone().map(Subject::Valve));
                subjects
            }
            Self::PutThing { thing, .. } => vec![Subject::Thing(thing.id.clone())],
            Self::RemoveThing { id } => vec![Subject::Thing(id.clone())],
            Self::SetNorth { .. } => vec![Subject::North],
            Self::SetUnderlay { .. } => vec![Subject::Underlay],
            Self::PutHead { group, head, .. } => vec![Subject::Head(group.clone(), head.id.clone())],
            Self::RemoveHead { group, id } => vec![Subject::Head(group.clone(), id.clone())],
            Self::PutNozzle { nozzle } => vec![Subject::Nozzle(nozzle.id.clone())],
            Self::RemoveNozzle { id } => vec![Subject::Nozzle(id.clone())],
            Self::SetFavourites { .. } => vec![Subject::Favourites],
            Self::Batch { edits } => edits.iter().flat_map(Self::subjects).collect(),
        }
    }

    /// For the history: what was done, in words.
    pub fn describe(&self) -> String {
        match self {
            Self::SetJob { .. } => "Job details".into(),
            Self::SetRules { .. } => "House rules".into(),
            Self::PutSupply { supply, .. } => format!("Water at {}", supply.name),
            Self::RemoveSupply { .. } => "Point of connection removed".into(),
            Self::PinDesignFlow { .. } => "Design flow pinned".into(),
            Self::PutGroup { group, .. } => format!("Heads of {}", group.name),
            Self::RemoveGroup { .. } => "Heads removed".into(),
            Self::PutValve { valve, .. } => format!("Valve {}", valve.name),
            Self::RemoveValve { .. } => "Valve removed".into(),
            Self::AssignHeads { heads, .. } => format!(
                "{} head{} moved",
                heads.len(),
                if heads.len() == 1 { "" } else { "s" }
            ),
            Self::FitRegulation { .. } => "Regulator".into(),
            Self::PutThing { thing, .. } => format!("{} on the board", thing.title()),
            Self::RemoveThing { .. } => "Taken off the board".into(),
            Self::SetNorth { .. } => "North".into(),
            Self::SetUnderlay { underlay } => if underlay.is_some() {
                "Picture beneath"
            } else {
                "Picture taken away"
            }
            .into(),
            Self::PutHead { .. } => "Head on the board".into(),
            Self::RemoveHead { .. } => "Head taken off the board".into(),
            Self::PutNozzle { nozzle } => format!("Nozzle {}", nozzle.label),
            Self::RemoveNozzle { .. } => "Nozzle removed".into(),
            Self::SetFavourites { .. } => "Nozzles on the truck".into(),
            Self::Batch { edits } => edits.first().map_or_else(|| "Nothing".into(), Self::describe),
        }
    }
}

/// Applies an edit: the next plan, and the edit that takes it back.
///
/// # Errors
/// [`EditError`]; the plan is then as it was. A whole batch applies or none of it.
pub fn apply(plan: &Plan, edit: &Edit, catalogue: &Catalogue) -> Result<(Plan, Edit), EditError> {
    let mut next = plan.clone();
    let inverse = change(&mut next, edit)?;
    let faults = validate(&next, next.with_own(catalogue));
    if faults.is_empty() {
        Ok((next, inverse))
    } else {
        Err(EditError::Faults(faults))
    }
}

/// Applies an edit without looking at the figures: for edits that were accepted before.
///
/// # Errors
/// What it changes is not there.
pub(crate) fn replay(plan: &mut Plan, edit: &Edit) -> Result<Edit, EditError> {
    change(plan, edit)
}

trait Named {
    const WHAT: &'static str;
    fn id(&self) -> &str;
}
impl Named for Supply {
    const WHAT: &'static str = "point of connection";
    fn id(&self) -> &str {
        &self.id
    }
}
impl Named for HeadGroup {
    const WHAT: &'static str = "group of heads";
    fn id(&self) -> &str {
        &self.id
    }
}
impl Named for Thing {
    const WHAT: &'static str = "thing on the board";
    fn id(&self) -> &str {
        &self.id
    }
}
impl Named for DrawnHead {
    const WHAT: &'static str = "head on the board";
    fn id(&self) -> &str {
        &self.id
    }
}
impl Named for OwnNozzle {
    const WHAT: &'static str = "nozzle of the house";
    fn id(&self) -> &str {
        &self.id
    }
}
impl Named for Valve {
    const WHAT: &'static str = "valve";
    fn id(&self) -> &str {
        &self.id
    }
}

/// Puts an entry into its list; gives back what it replaced.
fn put<T: Named>(list: &mut Vec<T>, entry: T, at: Option<usize>) -> Option<T> {
    match list.iter().position(|e| e.id() == entry.id()) {
        Some(i) => Some(std::mem::replace(&mut list[i], entry)),
        None => {
            list.insert(at.unwrap_or(list.len()).min(list.len()), entry);
            None
        }
    }
}

/// Takes an entry out of its list, with its place.
fn take<T: Named>(list: &mut Vec<T>, id: &str) -> Result<(T, usize), EditError> {
    let at = place(list, id)?;
    Ok((list.remove(at), at))
}

fn place<T: Named>(list: &[T], id: &str) -> Result<usize, EditError> {
    list.iter()
        .position(|e| e.id() == id)
        .ok_or_else(|| EditError::Missing {
            what: T::WHAT,
            id: id.to_owned(),
        })
}

fn change(plan: &mut Plan, edit: &Edit) -> Result<Edit, EditError> {
    Ok(match edit {
        Edit::SetJob {
            name,
            place,
            local_code,
            units,
        } => Edit::SetJob {
            name: std::mem::replace(&mut plan.name, name.clone()),
            place: std::mem::replace(&mut plan.place, place.clone()),
            local_code: std::mem::replace(&mut plan.local_code, local_code.clone()),
            units: std::mem::replace(&mut plan.units, *units),
        },
        Edit::SetRules { rules } => Edit::SetRules {
            rules: std::mem::replace(&mut plan.rules, rules.clone()),
        },
        Edit::PutSupply { supply, at } => match put(&mut plan.supplies, supply.clone(), *at) {
            Some(old) => Edit::PutSupply {
                supply: old,
                at: None,
            },
            None => Edit::RemoveSupply {
                id: supply.id.clone(),
            },
        },
        Edit::RemoveSupply { id } => {
            if plan.valves.iter().any(|v| v.supply == *id) {
                return Err(EditError::StillUsed { id: id.clone() });
            }
            let (supply, at) = take(&mut plan.supplies, id)?;
            Edit::PutSupply { supply, at: Some(at) }
        }
        Edit::PinDesignFlow { supply, school } => {
            let at = place(&plan.supplies, supply)?;
            Edit::PinDesignFlow {
                supply: supply.clone(),
                school: std::mem::replace(&mut plan.supplies[at].pin, *school),
            }
        }
        Edit::PutGroup { group, at } => match put(&mut plan.groups, group.clone(), *at) {
            Some(old) => Edit::PutGroup { group: old, at: None },
            None => Edit::RemoveGroup { id: group.id.clone() },
        },
        Edit::RemoveGroup { id } => {
            let (group, at) = take(&mut plan.groups, id)?;
            Edit::PutGroup { group, at: Some(at) }
        }
        Edit::PutValve { valve, at } => match put(&mut plan.valves, valve.clone(), *at) {
            Some(old) => Edit::PutValve { valve: old, at: None },
            None => Edit::RemoveValve { id: valve.id.clone() },
        },
        Edit::RemoveValve { id } => {
            let (valve, at) = take(&mut plan.valves, id)?;
            let mut back = vec![Edit::PutValve { valve, at: Some(at) }];
            for group in plan
                .groups
                .iter_mut()
                .filter(|g| g.heads().any(|(_, _, on)| on == Some(id)))
            {
                back.push(Edit::PutGroup {
                    group: group.clone(),
                    at: None,
                });
                group.reassign(|_, on| on.filter(|v| v != id).map(str::to_owned));
            }
            Edit::Batch { edits: back }
        }
        Edit::AssignHeads { heads, valve } => {
            if let Some(id) = valve {
                place(&plan.valves, id)?;
            }
            let mut groups: Vec<&str> = heads.iter().map(|h| h.group.as_str()).collect();
            groups.sort_unstable();
            groups.dedup();
            let mut back = Vec::new();
            for id in groups {
                let at = place(&plan.groups, id)?;
                let group = &mut plan.groups[at];
                let moved = |i: u32| heads.iter().any(|h| h.group == id && h.index == i);
                if let Some(head) = heads.iter().find(|h| h.group == id && h.index >= group.count()) {
                    return Err(EditError::Missing {
                        what: "head",
                        id: format!("{} no. {}", group.name, head.index.saturating_add(1)),
                    });
                }
                back.push(Edit::PutGroup {
                    group: group.clone(),
                    at: None,
                });
                group.reassign(|i, on| {
                    if moved(i) {
                        valve.clone()
                    } else {
                        on.map(str::to_owned)
                    }
                });
            }
            Edit::Batch { edits: back }
        }
        Edit::FitRegulation { valve, regulation } => {
            let at = place(&plan.valves, valve)?;
            let old = std::mem::replace(&mut plan.valves[at].regulation, *regulation);
            Edit::FitRegulation {
                valve: valve.clone(),
                regulation: old,
            }
        }
        Edit::PutThing { thing, at } => match put(&mut plan.site.things, thing.clone(), *at) {
            Some(old) => Edit::PutThing { thing: old, at: None },
            None => Edit::RemoveThing { id: thing.id.clone() },
        },
        Edit::RemoveThing { id } => {
            let (thing, at) = take(&mut plan.site.things, id)?;
            Edit::PutThing { thing, at: Some(at) }
        }
        Edit::SetNorth { degrees } => Edit::SetNorth {
            degrees: std::mem::replace(&mut plan.site.north, *degrees),
        },
        Edit::SetUnderlay { underlay } => Edit::SetUnderlay {
            underlay: std::mem::replace(&mut plan.site.underlay, underlay.clone()),
        },
        Edit::PutHead { group, head, at } => {
            let g = place(&plan.groups, group)?;
            match put(&mut plan.groups[g].drawn, head.clone(), *at) {
                Some(old) => Edit::PutHead {
                    group: group.clone(),
                    head: old,
                    at: None,
                },
                None => Edit::RemoveHead {
                    group: group.clone(),
                    id: head.id.clone(),
                },
            }
        }
        Edit::RemoveHead { group, id } => {
            let g = place(&plan.groups, group)?;
            let (head, at) = take(&mut plan.groups[g].drawn, id)?;
            Edit::PutHead {
                group: group.clone(),
                head,
                at: Some(at),
            }
        }
        Edit::PutNozzle { nozzle } => {
            plan.tables = Tables::default();
            match put(&mut plan.nozzles, nozzle.clone(), None) {
                Some(old) => Edit::PutNozzle { nozzle: old },
                None => Edit::RemoveNozzle {
                    id: nozzle.id.clone(),
                },
            }
        }
        Edit::RemoveNozzle { id } => {
            plan.tables = Tables::default();
            Edit::PutNozzle {
                nozzle: take(&mut plan.nozzles, id)?.0,
            }
        }
        Edit::SetFavourites { ids } => {
            plan.tables = Tables::default();
            Edit::SetFavourites {
                ids: std::mem::replace(&mut plan.favourites, ids.clone()),
            }
        }
        Edit::Batch { edits } => {
            let mut back = edits
                .iter()
                .map(|e| change(plan, e))
                .collect::<Result<Vec<_>, _>>()?;
            back.reverse();
            Edit::Batch { edits: back }
        }
    })
}
