//! What mends a zone.

use super::{Action, Diagnosis, Effect, Remedy, pipe};
use crate::catalogue::{Device, Duty, Nozzle, Role};
use crate::drip::{DripWish, design, inlet_flows};
use crate::findings::{Check, Finding};
use crate::job::Job;
use crate::plan::{Arrangement, DripLaying, Edit, HeadGroup, HeadRef, Regulation, RowLaying, Valve};
use crate::regulation;
use crate::units::{Flow, Length, Pressure};
use crate::usual;
use crate::zone::{ZoneAssessment, zone_of};

/// Findings of a zone with what would mend each: fractions of a millisecond a remedy.
pub(super) fn zone_remedies(
    job: &Job,
    valve: &Valve,
    zone: &ZoneAssessment,
    findings: &[Finding],
) -> Vec<Diagnosis> {
    let of = ZoneRemedies { job, valve, zone };
    findings.iter().map(|f| Diagnosis { finding: f.clone(), remedies: of_zone(&of, &f.check) }).collect()
}

fn of_zone(c: &ZoneRemedies<'_>, check: &Check) -> Vec<Remedy> {
    let all = match check {
        Check::HeadStarved { .. } => {
            let robbed =
                c.zone.regulator.as_ref().is_some_and(|r| !r.room.reaches(c.job.rules.regulator_room));
            let without =
                (c.valve.regulation != Regulation::None && robbed).then(|| c.fit(Regulation::None)).flatten();
            vec![c.feed_in_middle(), c.larger_pipe(), c.split_in_two(), c.drip_parts(), without]
        }
        Check::PressureHigh { .. } | Check::DripNoRegulator { .. } | Check::DripOverRating { .. } => {
            vec![c.regulate()]
        }
        Check::FlowOverDesign { .. } => {
            let over_nominal = c.zone.flow > c.zone.nominal_flow;
            vec![c.split_in_two(), over_nominal.then(|| c.regulate()).flatten(), c.drip_parts()]
        }
        Check::BelowAim { .. } => vec![c.feed_in_middle(), c.larger_pipe(), c.split_in_two()],
        Check::DirtyFilter { .. } => vec![c.larger_filter(), c.larger_pipe(), c.split_in_two()],
        Check::ServiceVelocity { .. } => vec![c.split_in_two()],
        Check::DripNearRating { .. } => vec![c.regulate()],
        Check::HeightOnValve { bodies: false, drip: false, .. } => vec![c.split_in_two()],
        Check::ArcsUnmatched { id, .. } => vec![c.job.group(id).and_then(|g| c.match_arcs(g))],
        Check::ArcNotMade { .. } => vec![c.arcs_that_are_made()],
        Check::PumpCycles { .. } => Vec::new(),
        Check::Spread { .. } => vec![c.feed_in_middle(), c.larger_pipe()],
        Check::Velocity { .. } => vec![c.larger_first_leg(), c.split_in_two(), c.drip_parts()],
        Check::NoRoom { inlet, wanted, .. } => {
            vec![c.lower(*inlet - *wanted), c.drip_parts(), c.fit(Regulation::None)]
        }
        Check::RegulatorFlow { .. } => vec![c.bodies_instead()],
        Check::ValveMinFlow { .. } => vec![c.low_flow_valve()],
        Check::DripNoFilter { .. } => vec![c.filter()],
        Check::DripSpacing { group, rows, widest, .. } => vec![c.closer(group, *rows, *widest)],
        Check::DripDownhill { group, .. } => vec![c.along_contour(group)],
        Check::Mixed { group, .. } | Check::MixedNever { group, .. } => {
            vec![c.job.group(group).and_then(|g| c.part_from(g))]
        }
        other => vec![pipe::of_valve(c.job, c.valve, other)],
    };
    all.into_iter().flatten().collect()
}

/// Computes remedies of one zone.
pub(super) struct ZoneRemedies<'a> {
    pub job: &'a Job,
    pub valve: &'a Valve,
    pub zone: &'a ZoneAssessment,
}

impl ZoneRemedies<'_> {
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
        (now - was > Pressure::from_psi(0.5)).then(|| Remedy::new(action, Effect::LastHead(now), edit))
    }

    /// Feeding in the middle; the first leg then reaches half a row further.
    pub fn feed_in_middle(&self) -> Option<Remedy> {
        let group = self
            .worst_group()
            .filter(|g| !g.is_drawn() && g.arrangement == Arrangement::Chain && g.count() > 3)?;
        let n = group.heads_on(Some(&self.valve.id)).len() as f64;
        let more = group.spacing * ((n - 1.0) / 2.0);
        let changed =
            HeadGroup { arrangement: Arrangement::Middle, distance: group.distance + more, ..group.clone() };
        self.if_it_lifts(Action::FeedInMiddle(more), Edit::put(changed))
    }

    /// The next size for the whole lateral.
    pub fn larger_pipe(&self) -> Option<Remedy> {
        let group = self.worst_group()?;
        let next = self.job.catalogue().next_pipe(&group.pipe)?;
        let changed = HeadGroup { pipe: next.id(), feed_pipe: None, ..group.clone() };
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
        let edit = Edit::put(HeadGroup { feed_pipe: Some(next.id()), ..fastest.clone() });
        let after = self.with(&edit)?;
        (after.velocity < self.zone.velocity).then(|| {
            let effect = Effect::VelocityAndLastHead(after.velocity, after.lowest().nozzle);
            Remedy::new(Action::FirstLeg(next.title()), effect, edit)
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
        let new = Valve { id: id.clone(), name, ..self.valve.clone() };
        let edit = self.beside(new, heads);
        let (job, _) = self.job.apply(&edit).ok()?;
        let zone = |id: &str| zone_of(&job, job.valve(id)?).ok();
        let effect = [zone(&self.valve.id)?, zone(&id)?].map(|z| (z.flow, z.lowest().nozzle));
        Some(Remedy::new(Action::SplitInTwo, Effect::TwoZones(effect), edit))
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
            model: if drip { catalogue.valve_of(Duty::LowFlow).id.clone() } else { self.valve.model.clone() },
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
        Some(Remedy::new(Action::OwnValve(group.name.clone()), effect, edit))
    }

    /// What the comparison of regulators recommends.
    pub fn regulate(&self) -> Option<Remedy> {
        let regulation = regulation::recommended(self.job, self.valve)?;
        (regulation != self.valve.regulation).then(|| self.fit(regulation)).flatten()
    }

    /// Fits a regulation, with the pressures it gives.
    pub fn fit(&self, regulation: Regulation) -> Option<Remedy> {
        let edit = Edit::fit(self.valve.id.clone(), regulation);
        let after = self.with(&edit)?;
        let effect = Effect::Range(after.lowest().nozzle, after.highest().nozzle);
        Some(Remedy::new(Action::Fit(regulation, after.heads.len()), effect, edit))
    }

    /// The same module set lower, to a whole psi.
    pub fn lower(&self, to: Pressure) -> Option<Remedy> {
        let set = Pressure::from_psi(to.psi().floor());
        let module = matches!(self.valve.regulation, Regulation::Valve { .. });
        (module && set >= Pressure::from_psi(15.0)).then(|| self.fit(Regulation::Valve { set })).flatten()
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
        let valve = Valve { model: model.id.clone(), ..self.valve.clone() };
        self.change_valve(Action::LowFlowValve, valve)
    }

    /// A filter behind the valve.
    pub fn filter(&self) -> Option<Remedy> {
        let filter = self.job.catalogue().filter_for(self.zone.flow).id.clone();
        self.change_valve(Action::Filter, Valve { filter: Some(filter), ..self.valve.clone() })
    }

    /// Drip in one part more, the new one on a valve of its own.
    pub fn drip_parts(&self) -> Option<Remedy> {
        let group = self.job.group(&self.zone.lowest().head.group)?;
        let area = group.area.as_deref()?;
        let flow: Flow = inlet_flows(self.job, group)?.into_iter().sum();
        let parts = group.drawn.len() + 1;
        // A hair more than an even share, so that it rounds to as many parts.
        let limit = flow * (1.000_1 / parts as f64);
        let made = design(self.job, area, &DripWish::like(group), Some(limit)).ok()?;
        let mut next = made.group;
        if next.drawn.len() != parts {
            return None;
        }
        let mut valve = usual::valve(self.job, Some(self.valve))?;
        valve.name = format!("{} {parts}", self.valve.name);
        for (i, head) in next.drawn.iter_mut().enumerate() {
            let was = group.drawn.get(i).and_then(|h| h.valve.clone());
            head.valve = Some(was.unwrap_or_else(|| valve.id.clone()));
        }
        let edit = Edit::batch(vec![Edit::put(valve), Edit::put(next)]);
        let (job, _) = self.job.apply(&edit).ok()?;
        let after = zone_of(&job, self.valve).ok()?;
        let low = after.lowest();
        Some(Remedy {
            mends: after.starved().is_none(),
            ..Remedy::new(Action::DripParts(parts), Effect::LastHead(low.nozzle), edit)
        })
    }

    /// Rows or emitters as close as the soil carries water.
    pub fn closer(&self, group: &str, rows: bool, widest: Length) -> Option<Remedy> {
        self.relaid(group, Action::DripCloser { rows, apart: widest }, |group, laying| {
            if rows {
                group.spacing = widest;
            } else {
                laying.emitter_spacing = widest;
            }
        })
    }

    /// Rows the way that the ground asks for.
    pub fn along_contour(&self, group: &str) -> Option<Remedy> {
        let now = self.job.group(group)?;
        matches!(&now.drip, Some(DripLaying::Rows(rows)) if rows.heading.is_some()).then_some(())?;
        self.relaid(group, Action::DripAlongContour, |_, laying| laying.heading = None)
    }

    fn relaid(
        &self,
        group: &str,
        action: Action,
        change: impl Fn(&mut HeadGroup, &mut RowLaying),
    ) -> Option<Remedy> {
        let mut next = self.job.group(group)?.clone();
        let Some(DripLaying::Rows(mut laying)) = next.drip.clone() else {
            return None;
        };
        change(&mut next, &mut laying);
        next.drip = Some(DripLaying::Rows(laying));
        let edit = Edit::put(next);
        let (job, _) = self.job.apply(&edit).ok()?;
        let after = zone_of(&job, self.valve).ok()?;
        Some(Remedy::new(action, Effect::LastHead(after.lowest().nozzle), edit))
    }

    fn change_valve(&self, action: Action, valve: Valve) -> Option<Remedy> {
        let edit = Edit::put(valve);
        let effect = Effect::LastHead(self.with(&edit)?.lowest().nozzle);
        Some(Remedy::new(action, effect, edit))
    }

    /// The filter of the next size.
    pub fn larger_filter(&self) -> Option<Remedy> {
        let now = self.job.catalogue().device(self.valve.filter.as_deref()?)?;
        let cost = |d: &Device| d.loss.at(self.zone.flow);
        let next = self
            .job
            .catalogue()
            .devices
            .iter()
            .filter(|d| d.role == Role::Filter && cost(d) < cost(now))
            .min_by(|a, b| cost(b).kpa().total_cmp(&cost(a).kpa()))?;
        let valve = Valve { filter: Some(next.id.clone()), ..self.valve.clone() };
        self.change_valve(Action::LargerFilter(next.label.clone()), valve)
    }

    /// Each arc of a group on a nozzle of its own, so that flow follows arc: of all nozzles of the kind the
    /// set that matches best, and of those as good the one that changes the largest arc least.
    pub fn match_arcs(&self, group: &HeadGroup) -> Option<Remedy> {
        let catalogue = self.job.catalogue();
        let now = catalogue.nozzle(&group.nozzle)?;
        let mut arcs: Vec<u16> = group.heads().map(|h| h.1).collect();
        arcs.sort_unstable();
        arcs.dedup();
        let largest = f64::from(*arcs.last()?);
        let kin: Vec<&Nozzle> = catalogue.nozzles.iter().filter(|n| n.kind == now.kind).collect();
        // Sets by their largest nozzle: ratio of the rates, and how far the largest is from what it was.
        let set_of = |top: &&Nozzle| {
            let pick = |arc: &u16| {
                let wanted = top.flow.lpm() * f64::from(*arc) / largest;
                let off = |n: &&&Nozzle| (n.flow.lpm() / wanted).ln().abs();
                kin.iter().min_by(|a, b| off(a).total_cmp(&off(b))).copied()
            };
            let set: Vec<(u16, &Nozzle)> = arcs.iter().filter_map(|a| Some((*a, pick(a)?))).collect();
            let rates = set.iter().map(|(a, n)| n.flow.lpm() / f64::from(*a));
            let (low, high) = rates.fold((f64::MAX, 0.0f64), |(l, h), r| (l.min(r), h.max(r)));
            // Where the smallest of them throws less than the spacing the next larger set is better.
            let throws = set.iter().filter_map(|(_, n)| n.radius);
            let least = throws.reduce(Length::min).unwrap_or(group.spacing);
            let stretched = (group.spacing / least - 1.0).max(0.0);
            let moved = (top.flow / now.flow).ln().abs() + 10.0 * stretched;
            (high / low.max(1e-9), moved, set)
        };
        // A tenth apart is as good as matched: then the nozzle that is there stays, if it can.
        let rank = |s: &(f64, f64, Vec<(u16, &Nozzle)>)| ((s.0.max(1.1) * 100.0).round(), s.1);
        let best = kin.iter().map(set_of).min_by(|a, b| {
            let ((ra, ma), (rb, mb)) = (rank(a), rank(b));
            ra.total_cmp(&rb).then(ma.total_cmp(&mb))
        })?;
        let (ratio, _, set) = best;
        let mut edits = Vec::new();
        let mut work = self.job.clone();
        let stays = set.last()?.1;
        for (arc, nozzle) in &set {
            if nozzle.id == stays.id {
                continue;
            }
            let id = work.fresh_id('g');
            let mut part = group.clone();
            part.id.clone_from(&id);
            part.name = format!("{} {arc}°", group.name);
            part.nozzle.clone_from(&nozzle.id);
            part.listed.retain(|l| l.arc == *arc);
            part.drawn.retain(|h| h.arc == *arc);
            part.drawn.iter_mut().for_each(|h| h.radius = None);
            let edit = Edit::put(part);
            edits.push((edit, *arc));
            // A name is taken once its group is there.
            let mut named = group.clone();
            named.id = id;
            (named.listed, named.drawn) = Default::default();
            work = work.replay(&Edit::put(named)).ok()?.0;
        }
        let gone: Vec<u16> = edits.iter().map(|e| e.1).collect();
        let mut rest = group.clone();
        rest.nozzle.clone_from(&stays.id);
        rest.listed.retain(|l| !gone.contains(&l.arc));
        rest.drawn.retain(|h| !gone.contains(&h.arc));
        // The heads leave their old group before they come into the new one: a name is there once.
        let mut all = vec![Edit::put(rest)];
        all.extend(edits.into_iter().map(|e| e.0));
        let named = set.iter().map(|(a, n)| (*a, n.id.clone())).collect();
        Some(Remedy::new(Action::MatchArcs(named), Effect::RateRatio(ratio), Edit::batch(all)))
    }

    /// Arcs that are not made set to the largest below that is.
    pub fn arcs_that_are_made(&self) -> Option<Remedy> {
        let catalogue = self.job.catalogue();
        let mut edits = Vec::new();
        let mut set = 0;
        for group in self.job.groups.iter().filter(|g| g.is_on(&self.valve.id)) {
            let nozzle = catalogue.nozzle(&group.nozzle)?;
            let Some((from, _)) = nozzle.kind.arcs_not_made() else {
                continue;
            };
            let made = |arc: u16| if nozzle.makes(arc) { arc } else { from - 1 };
            let mut changed = group.clone();
            changed.listed.iter_mut().for_each(|l| l.arc = made(l.arc));
            changed.drawn.iter_mut().for_each(|h| h.arc = made(h.arc));
            if changed != *group {
                set = from - 1;
                edits.push(Edit::put(changed));
            }
        }
        let edit = Edit::batch(edits);
        let after = self.with(&edit)?;
        let effect = Effect::Range(after.lowest().nozzle, after.highest().nozzle);
        (set > 0).then(|| Remedy::new(Action::SetArcs(set), effect, edit))
    }
}
