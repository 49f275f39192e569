//! Heads of one group against each other: arcs that match, arcs that are made, throws that reach.

use super::checker::Checker;
use super::{Check, Finding, Severity};
use crate::catalogue::{ArcRule, Kind, Nozzle};
use crate::coverage::{Direction, RATE_STOP, RATE_WATCH};
use crate::plan::HeadGroup;
use crate::units::{Flow, Length, Pressure, Surface};

/// Gap over throw from which to watch, and from which to mend: 55 % of the diameter is the widest that
/// anybody spaces, in still air.
const GAP: (f64, f64) = (1.05, 1.10);

/// Area over what the heads cover at their spacing from which they are too few.
const UNCOVERED: f64 = 1.5;

impl Checker<'_> {
    fn nozzles(&self) -> impl Iterator<Item = (&HeadGroup, &Nozzle)> {
        let catalogue = self.job.catalogue();
        self.groups().filter_map(|g| Some((g, catalogue.nozzle(&g.nozzle)?)))
    }

    /// Arcs of the group's heads on this valve, each once, with how many there are.
    fn arcs_of(&self, group: &HeadGroup) -> Vec<(u16, usize)> {
        let mut arcs: Vec<(u16, usize)> = Vec::new();
        let here = group.heads().filter(|h| h.2 == Some(self.valve.id.as_str()));
        for (_, arc, _) in here {
            match arcs.iter_mut().find(|a| a.0 == arc) {
                Some(a) => a.1 += 1,
                None => arcs.push((arc, 1)),
            }
        }
        arcs.sort_unstable();
        arcs
    }

    pub(super) fn arcs(&self) -> Vec<Finding> {
        let each = self.nozzles().flat_map(|(group, nozzle)| {
            let arcs = self.arcs_of(group);
            [unmatched(group, nozzle, &arcs), not_made(group, nozzle, &arcs), self.not_covered(group, nozzle)]
        });
        each.flatten().collect()
    }

    /// Heads of a listed group against its drawn area; bubblers and emitters stand at plants, not on ground.
    fn not_covered(&self, group: &HeadGroup, nozzle: &Nozzle) -> Option<Finding> {
        let at_plants = matches!(nozzle.kind, Kind::Bubbler | Kind::Emitter);
        let scale = self.job.ground_scale(group);
        let area = self.job.site.area(group.area.as_deref()?)?;
        let check = Check::AreaNotCovered {
            group: group.name.clone(),
            covered: Surface::from_m2(area.shape.area_m2() / scale),
            area: Surface::from_m2(area.shape.area_m2()),
        };
        (!at_plants && scale > UNCOVERED).then(|| Finding::new(Severity::Watch, check))
    }

    /// Of listed groups by their spacing and the throw at the pressure that the worst of them gets;
    /// drawn heads are looked at where they stand.
    pub(super) fn head_to_head(&self) -> Vec<Finding> {
        let of = |(group, nozzle): (&HeadGroup, &Nozzle)| {
            let throws = nozzle.pattern.is_none() && nozzle.kind != Kind::Bubbler && !group.is_drawn();
            let here: Vec<Pressure> =
                self.zone.heads.iter().filter(|h| h.head.group == group.id).map(|h| h.nozzle).collect();
            if !throws || here.len() < 2 {
                return None;
            }
            let class = self.job.catalogue().class(nozzle.kind);
            let throw = nozzle.throw(class, here.iter().copied().reduce(Pressure::min)?, None)?;
            let rows = group.row_spacing.map(|r| (r, Direction::Rows));
            let (gap, along) = [Some((group.spacing, Direction::Row)), rows]
                .into_iter()
                .flatten()
                .max_by(|a, b| a.0.m().total_cmp(&b.0.m()))?;
            reach(here.len(), here.len(), gap, throw, along)
        };
        self.nozzles().filter_map(of).collect()
    }
}

/// A gap against a throw, as a finding where it is too wide.
pub(super) fn reach(
    heads: usize,
    of: usize,
    gap: Length,
    throw: Length,
    along: Direction,
) -> Option<Finding> {
    let severity = match gap / throw.max(Length::from_m(0.01)) {
        share if share > GAP.1 => Severity::Fix,
        share if share > GAP.0 => Severity::Watch,
        _ => return None,
    };
    let check = Check::NotHeadToHead { heads, of, gap, throw, along };
    Some(Finding::new(severity, check))
}

fn unmatched(group: &HeadGroup, nozzle: &Nozzle, arcs: &[(u16, usize)]) -> Option<Finding> {
    if nozzle.arc_rule != ArcRule::Any {
        return None;
    }
    let (least, most) = (arcs.first()?.0, arcs.last()?.0);
    // One flow on a smaller sector is so much more rate.
    let ratio = f64::from(most) / f64::from(least.max(1));
    let severity = match ratio {
        r if r > RATE_STOP => Severity::Fix,
        r if r > RATE_WATCH => Severity::Watch,
        _ => return None,
    };
    let flows: Vec<(u16, Flow)> = arcs.iter().map(|a| (a.0, nozzle.flow)).collect();
    let check = Check::ArcsUnmatched { group: group.name.clone(), id: group.id.clone(), arcs: flows, ratio };
    Some(Finding::new(severity, check))
}

fn not_made(group: &HeadGroup, nozzle: &Nozzle, arcs: &[(u16, usize)]) -> Option<Finding> {
    let bad = || arcs.iter().filter(|a| !nozzle.makes(a.0));
    let arc = bad().next()?.0;
    let most = nozzle.kind.arcs_not_made().map_or(nozzle.arcs.1, |gap| gap.0 - 1);
    let check = Check::ArcNotMade {
        group: group.name.clone(),
        heads: bad().map(|a| a.1).sum(),
        arc,
        made: (nozzle.arcs.0, most),
    };
    Some(Finding::new(Severity::Fix, check))
}
