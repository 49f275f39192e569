use super::{Action, Effect, Remedy};
use crate::catalogue::Duty;
use crate::job::Job;
use crate::plan::{Arrangement, Edit, HeadGroup, HeadRef, Regulation, Valve};
use crate::regulation;
use crate::units::{Flow, Pressure};
use crate::zone::{ZoneAssessment, zone_of};

/// Computes remedies of one zone.
pub(super) struct Cures<'a> {
    pub job: &'a Job,
    pub valve: &'a Valve,
    pub zone: &'a ZoneAssessment,
}

impl Cures<'_> {
    /// The zone with an edit applied.
    fn with(&self, edit: &Edit) -> Option<ZoneAssessment> {
        let (job, _) = self.job.apply(edit).ok()?;
        zone_of(&job, job.valve(&self.valve.id)?).ok()
    }

    fn worst_group(&self) -> Option<&HeadGroup> {
        self.job.group(&self.zone.lowest().head.group)
    }

    /// The remedy if it raises the worst head by at least half a psi.
    fn if_it_lifts(&self, action: Action, edit: Edit) -> Option<Remedy> {
        let after = self.with(&edit)?;
        let (was, now) = (self.zone.lowest().nozzle, after.lowest().nozzle);
        (now - was > Pressure::from_psi(0.5)).then_some(Remedy {
            action,
            effect: Effect::LastHead(now),
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
        self.if_it_lifts(Action::FeedInMiddle(more), Edit::put(changed))
    }

    /// The next size for the whole lateral.
    pub fn larger_pipe(&self) -> Option<Remedy> {
        let group = self.worst_group()?;
        let next = self.job.catalogue().next_pipe(&group.pipe)?;
        let changed = HeadGroup {
            pipe: next.id(),
            feed_pipe: None,
            ..group.clone()
        };
        self.if_it_lifts(Action::Lateral(next.title()), Edit::put(changed))
    }

    /// The next size for the first leg: for velocity.
    pub fn larger_first_leg(&self) -> Option<Remedy> {
        let catalogue = self.job.catalogue();
        let speed = |g: &HeadGroup| -> f64 {
            let pipe = catalogue.pipe(g.feed_pipe.as_ref().unwrap_or(&g.pipe));
            let area = pipe.map_or(1.0, |p| p.inside.m().powi(2));
            let here = self.zone.heads.iter().filter(|h| h.head.group == g.id);
            here.map(|h| h.flow.lpm()).sum::<f64>() / area
        };
        let groups = self.job.groups.iter().filter(|g| g.is_on(&self.valve.id));
        let fastest = groups.max_by(|a, b| speed(a).total_cmp(&speed(b)))?;
        let next = catalogue.next_pipe(fastest.feed_pipe.as_ref().unwrap_or(&fastest.pipe))?;
        let edit = Edit::put(HeadGroup {
            feed_pipe: Some(next.id()),
            ..fastest.clone()
        });
        let after = self.with(&edit)?;
        (after.velocity < self.zone.velocity).then(|| Remedy {
            action: Action::FirstLeg(next.title()),
            effect: Effect::VelocityAndLastHead(after.velocity, after.lowest().nozzle),
            edit,
        })
    }

    /// The second half of the heads on a valve of its own.
    pub fn split_in_two(&self) -> Option<Remedy> {
        let half = self.zone.flow / 2.0;
        let mut sum = Flow::ZERO;
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
        let id = self.job.fresh_id('v');
        let name = format!("{} B", self.valve.name.trim_end_matches(" B"));
        let new = Valve {
            id: id.clone(),
            name,
            ..self.valve.clone()
        };
        let edit = self.beside(new, heads);
        let (job, _) = self.job.apply(&edit).ok()?;
        let zone = |id: &str| zone_of(&job, job.valve(id)?).ok();
        let effect = [zone(&self.valve.id)?, zone(&id)?].map(|z| (z.flow, z.lowest().nozzle));
        Some(Remedy {
            action: Action::SplitInTwo,
            effect: Effect::TwoZones(effect),
            edit,
        })
    }

    /// Moves heads to a new valve that comes after this one.
    fn beside(&self, new: Valve, heads: Vec<HeadRef>) -> Edit {
        let id = new.id.clone();
        let at = self.job.valve_number(&self.valve.id);
        Edit::batch(vec![Edit::put_at(new, Some(at)), Edit::assign(heads, Some(id))])
    }

    /// A group that does not belong gets its own valve.
    pub fn part_from(&self, group: &HeadGroup) -> Option<Remedy> {
        let heads = group.heads_on(Some(&self.valve.id));
        if heads.len() >= self.zone.heads.len() {
            return None;
        }
        let catalogue = self.job.catalogue();
        let id = self.job.fresh_id('v');
        let drip = catalogue.nozzle(&group.nozzle).is_some_and(|n| n.kind.is_drip());
        let here = self.zone.heads.iter().filter(|h| h.head.group == group.id);
        let flow: Flow = here.map(|h| h.nominal_flow).sum();
        let new = Valve {
            id: id.clone(),
            name: group.name.clone(),
            model: if drip {
                catalogue.valve_of(Duty::LowFlow).id.clone()
            } else {
                self.valve.model.clone()
            },
            filter: drip.then(|| catalogue.filter_for(flow).id.clone()),
            regulation: Regulation::None,
            ..self.valve.clone()
        };
        let (job, _) = self.job.apply(&self.beside(new.clone(), heads.clone())).ok()?;
        let regulation = regulation::recommended(&job, job.valve(&id)?)?;
        let edit = self.beside(Valve { regulation, ..new }, heads);
        let (job, _) = self.job.apply(&edit).ok()?;
        let flow = |id: &str| Some(zone_of(&job, job.valve(id)?).ok()?.flow);
        let effect = Effect::HereAndThere(flow(&self.valve.id)?, flow(&id)?);
        Some(Remedy {
            action: Action::OwnValve(group.name.clone()),
            effect,
            edit,
        })
    }

    /// What the comparison of regulators recommends.
    pub fn regulate(&self) -> Option<Remedy> {
        let regulation = regulation::recommended(self.job, self.valve)?;
        (regulation != self.valve.regulation)
            .then(|| self.fit(regulation))
            .flatten()
    }

    /// Fits a regulation, with the pressures it gives.
    pub fn fit(&self, regulation: Regulation) -> Option<Remedy> {
        let edit = Edit::fit(self.valve.id.clone(), regulation);
        let after = self.with(&edit)?;
        Some(Remedy {
            action: Action::Fit(regulation, after.heads.len()),
            effect: Effect::Range(after.lowest().nozzle, after.highest().nozzle),
            edit,
        })
    }

    /// The same module set lower, to a whole psi.
    pub fn lower(&self, to: Pressure) -> Option<Remedy> {
        let set = Pressure::from_psi(to.psi().floor());
        let module = matches!(self.valve.regulation, Regulation::Valve { .. });
        (module && set >= Pressure::from_psi(15.0))
            .then(|| self.fit(Regulation::Valve { set }))
            .flatten()
    }

    /// Bodies instead of a module that the flow does not suit.
    pub fn bodies_instead(&self) -> Option<Remedy> {
        if !matches!(self.valve.regulation, Regulation::Valve { .. }) {
            return None;
        }
        let catalogue = self.job.catalogue();
        let nozzle = catalogue.nozzle(&self.worst_group()?.nozzle)?;
        let set = catalogue.class(nozzle.kind).body?;
        self.fit(Regulation::Body { set })
    }

    /// A valve that closes at little flow.
    pub fn low_flow_valve(&self) -> Option<Remedy> {
        let model = self.job.catalogue().valve_of(Duty::LowFlow);
        if model.proposed_to.is_some_and(|most| self.zone.flow >= most) {
            return None;
        }
        let valve = Valve {
            model: model.id.clone(),
            ..self.valve.clone()
        };
        self.change_valve(Action::LowFlowValve, valve)
    }

    /// A filter behind the valve.
    pub fn filter(&self) -> Option<Remedy> {
        let filter = self.job.catalogue().filter_for(self.zone.flow).id.clone();
        self.change_valve(
            Action::Filter,
            Valve {
                filter: Some(filter),
                ..self.valve.clone()
            },
        )
    }

    fn change_valve(&self, action: Action, valve: Valve) -> Option<Remedy> {
        let edit = Edit::put(valve);
        let effect = Effect::LastHead(self.with(&edit)?.lowest().nozzle);
        Some(Remedy { action, effect, edit })
    }
}
