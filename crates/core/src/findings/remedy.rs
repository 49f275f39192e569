use crate::catalogue::Catalogue;
use crate::plan::{Arrangement, Edit, HeadGroup, HeadRef, Plan, Regulation, Valve, apply};
use crate::regulation;
use crate::units::Pressure;
use crate::zone::{ZoneAssessment, assess_zone};

/// A change that mends a finding, with what it would give.
#[derive(Debug, Clone, PartialEq)]
pub struct Remedy {
    /// What to do.
    pub label: String,
    /// What it gives, computed: `29.2 psi at the last head`.
    pub effect: String,
    /// The change.
    pub edit: Edit,
}

/// Computes remedies of one zone.
pub(super) struct Cures<'a> {
    pub plan: &'a Plan,
    pub valve: &'a Valve,
    pub zone: &'a ZoneAssessment,
    pub catalogue: &'a Catalogue,
}

impl Cures<'_> {
    /// The zone with an edit applied.
    fn with(&self, edit: &Edit) -> Option<ZoneAssessment> {
        let (plan, _) = apply(self.plan, edit, self.catalogue).ok()?;
        assess_zone(&plan, plan.valve(&self.valve.id)?, self.catalogue).ok()
    }

    fn groups(&self) -> impl Iterator<Item = &HeadGroup> {
        self.plan.groups.iter().filter(|g| g.is_on(&self.valve.id))
    }

    fn worst_group(&self) -> Option<&HeadGroup> {
        self.plan.group(&self.zone.lowest().head.group)
    }

    fn put(group: HeadGroup) -> Edit {
        Edit::PutGroup { group, at: None }
    }

    /// The remedy if it raises the worst head by at least half a psi.
    fn if_it_lifts(&self, label: String, edit: Edit) -> Option<Remedy> {
        let after = self.with(&edit)?;
        let (was, now) = (self.zone.lowest().nozzle, after.lowest().nozzle);
        (now - was > Pressure::from_psi(0.5)).then(|| Remedy {
            label,
            effect: format!("{} at the last head", now.show(self.plan.units)),
            edit,
        })
    }

    /// Feeding in the middle; the first leg then reaches half a row further.
    pub fn feed_in_middle(&self) -> Option<Remedy> {
        let group = self
            .worst_group()
            .filter(|g| !g.is_drawn() && g.arrangement == Arrangement::Chain && g.count() > 3)?;
        let n = group.heads_on(Some(&self.valve.id)).len() as f64;
        let more = group.spacing * ((n - 1.0) / 2.0);
        let changed = HeadGroup {
            arrangement: Arrangement::Middle,
            distance: group.distance + more,
            ..group.clone()
        };
        self.if_it_lifts(
            format!("Feed in the middle, {} more pipe", more.show(self.plan.units)),
            Self::put(changed),
        )
    }

    /// The next size for the whole lateral.
    pub fn larger_pipe(&self) -> Option<Remedy> {
        let group = self.worst_group()?;
        let next = self.catalogue.next_pipe(&group.pipe)?;
        let changed = HeadGroup {
            pipe: next.id(),
            feed_pipe: None,
            ..group.clone()
        };
        self.if_it_lifts(format!("Lateral in {}", next.title()), Self::put(changed))
    }

    /// The next size for the first leg: for velocity.
    pub fn larger_first_leg(&self) -> Option<Remedy> {
        let fastest = self.groups().max_by(|a, b| {
            let flow = |g: &HeadGroup| -> f64 {
                let area = self
                    .catalogue
                    .pipe(g.feed_pipe.as_ref().unwrap_or(&g.pipe))
                    .map_or(1.0, |p| p.inside.m().powi(2));
                self.zone
                    .heads
                    .iter()
                    .filter(|h| h.head.group == g.id)
                    .map(|h| h.flow.lpm())
                    .sum::<f64>()
                    / area
            };
            flow(a).total_cmp(&flow(b))
        })?;
        let next = self
            .catalogue
            .next_pipe(fastest.feed_pipe.as_ref().unwrap_or(&fastest.pipe))?;
        let changed = HeadGroup {
            feed_pipe: Some(next.id()),
            ..fastest.clone()
        };
        let edit = Self::put(changed);
        let after = self.with(&edit)?;
        (after.velocity < self.zone.velocity).then(|| Remedy {
            label: format!("First leg in {}", next.title()),
            effect: format!(
                "{}, {} at the last head",
                after.velocity.show(self.plan.units),
                after.lowest().nozzle.show(self.plan.units)
            ),
            edit,
        })
    }

    /// The second half of the heads on a valve of its own.
    pub fn split_in_two(&self) -> Option<Remedy> {
        let half = self.zone.flow / 2.0;
        let mut sum = crate::units::Flow::ZERO;
        let mut heads: Vec<HeadRef> = Vec::new();
        for h in self.zone.heads.iter().rev() {
            if sum + h.flow > half && !heads.is_empty() {
                break;
            }
            sum = sum + h.flow;
            heads.push(h.head.clone());
        }
        if heads.len() >= self.zone.heads.len() {
            return None;
        }
        heads.reverse();
        self.own_valve(heads, "Split in two".into())
    }

    /// Moves heads to a new valve like this one.
    fn own_valve(&self, heads: Vec<HeadRef>, label: String) -> Option<Remedy> {
        let id = self.plan.fresh_id('v');
        let name = format!("{} B", self.valve.name.trim_end_matches(" B"));
        let new = Valve {
            id: id.clone(),
            name,
            ..self.valve.clone()
        };
        let at = self.plan.valve_number(&self.valve.id);
        let edit = Edit::Batch {
            edits: vec![
                Edit::PutValve {
                    valve: new,
                    at: Some(at),
                },
                Edit::AssignHeads {
                    heads,
                    valve: Some(id.clone()),
                },
            ],
        };
        let (plan, _) = apply(self.plan, &edit, self.catalogue).ok()?;
        let zone = |id: &str| assess_zone(&plan, plan.valve(id)?, self.catalogue).ok();
        let (a, b) = (zone(&self.valve.id)?, zone(&id)?);
        let units = self.plan.units;
        let effect = format!(
            "{} and {}, last heads {} and {}",
            a.flow.show(units),
            b.flow.show(units),
            a.lowest().nozzle.show(units),
            b.lowest().nozzle.show(units)
        );
        Some(Remedy { label, effect, edit })
    }

    /// A group that does not belong gets its own valve.
    pub fn part_from(&self, group: &HeadGroup) -> Option<Remedy> {
        let heads = group.heads_on(Some(&self.valve.id));
        if heads.len() >= self.zone.heads.len() {
            return None;
        }
        let id = self.plan.fresh_id('v');
        let drip = self
            .catalogue
            .nozzle(&group.nozzle)
            .is_some_and(|n| n.kind.is_drip());
        let new = Valve {
            id: id.clone(),
            name: group.name.clone(),
            model: if drip {
                "valve-drip-3/4in".into()
            } else {
                self.valve.model.clone()
            },
            filter: drip.then(|| "filter-3/4in".into()),
            regulation: Regulation::None,
            ..self.valve.clone()
        };
        let put = |valve: Valve| Edit::Batch {
            edits: vec![
                Edit::PutValve {
                    valve,
                    at: Some(self.plan.valve_number(&self.valve.id)),
                },
                Edit::AssignHeads {
                    heads: heads.clone(),
                    valve: Some(id.clone()),
                },
            ],
        };
        let (plan, _) = apply(self.plan, &put(new.clone()), self.catalogue).ok()?;
        let regulation = regulation::recommended(&plan, plan.valve(&id)?, self.catalogue)?;
        let edit = put(Valve { regulation, ..new });
        let (plan, _) = apply(self.plan, &edit, self.catalogue).ok()?;
        let (left, own) = (
            assess_zone(&plan, plan.valve(&self.valve.id)?, self.catalogue).ok()?,
            assess_zone(&plan, plan.valve(&id)?, self.catalogue).ok()?,
        );
        let units = self.plan.units;
        let effect = format!("{} here, {} there", left.flow.show(units), own.flow.show(units));
        Some(Remedy {
            label: format!("Own valve for {}", group.name),
            effect,
            edit,
        })
    }

    /// What the comparison of regulators recommends.
    pub fn regulate(&self) -> Option<Remedy> {
        let regulation = regulation::recommended(self.plan, self.valve, self.catalogue)?;
        (regulation != self.valve.regulation)
            .then(|| self.fit(regulation))
            .flatten()
    }

    /// Fits a regulation, with the pressures it gives.
    pub fn fit(&self, regulation: Regulation) -> Option<Remedy> {
        let units = self.plan.units;
        let edit = Edit::FitRegulation {
            valve: self.valve.id.clone(),
            regulation,
        };
        let after = self.with(&edit)?;
        let label = match regulation {
            Regulation::None => "Take the regulator out".to_owned(),
            Regulation::Valve { set } => format!("Module on the valve, set {}", set.show_round(units)),
            Regulation::Inline { set } => format!("Preset {} behind the valve", set.show_round(units)),
            Regulation::Body { set } => format!("{} bodies at {}", after.heads.len(), set.show_round(units)),
        };
        let effect = format!(
            "{} to {}",
            after.lowest().nozzle.number(units),
            after.highest().nozzle.show(units)
        );
        Some(Remedy { label, effect, edit })
    }

    /// Another valve or filter.
    pub fn change_valve(&self, label: &str, change: impl FnOnce(&mut Valve)) -> Option<Remedy> {
        let mut valve = self.valve.clone();
        change(&mut valve);
        let edit = Edit::PutValve { valve, at: None };
        let after = self.with(&edit)?;
        Some(Remedy {
            label: label.into(),
            effect: format!("{} at the last head", after.lowest().nozzle.show(self.plan.units)),
            edit,
        })
    }
}
