//! Remedies tried on a copy of the whole job: one is offered only if nothing as bad or worse appears
//! anywhere that was not there before.

use super::Diagnosis;
use crate::assess::{AreaReport, Assessment, area_report, assess_after};
use crate::findings::{Check, Finding, Severity};
use crate::job::Job;
use crate::plan::{Supply, Valve};
use crate::units::Pressure;
use crate::zone::HeadResult;

/// What the findings are of whose remedies are tried.
#[derive(Clone, Copy)]
pub(super) enum Place<'a> {
    Valve(&'a Valve),
    Supply(&'a Supply),
    Area(&'a AreaReport),
}

impl Place<'_> {
    fn id(&self) -> &str {
        match self {
            Self::Valve(valve) => &valve.id,
            Self::Supply(supply) => &supply.id,
            Self::Area(report) => &report.area,
        }
    }
}

/// A finding, and the valve, connection or area that it is of.
type Placed<'a> = (&'a str, &'a Finding);

impl Assessment {
    fn placed(&self) -> Vec<Placed<'_>> {
        let zones = self.zones.iter().flat_map(|z| z.findings.iter().map(|f| (z.valve.as_str(), f)));
        let supplies = self.supplies.iter().flat_map(|s| s.findings.iter().map(|f| (s.id.as_str(), f)));
        zones.chain(supplies).collect()
    }
}

/// What a remedy does to the whole job.
enum Outcome {
    /// The finding is gone or milder, and nothing as bad is new.
    Mends,
    /// Nothing as bad is new, but the finding stands.
    Helps,
    /// The finding is gone, but something as bad is new.
    Costs(Vec<Finding>),
    /// Something worse is new, or what makes the remedy itself useless.
    Hurts,
}

/// Findings of a place with those of their remedies that do not hurt. One that only helps is kept where
/// none mends, and says so; one that costs something as bad only where there is nothing else, and names it.
/// Of those that are kept the first leaves the heads of the job nearest to their bands.
pub(super) fn harmless(
    job: &Job,
    before: &Assessment,
    place: Place<'_>,
    found: Vec<Diagnosis>,
) -> Vec<Diagnosis> {
    let mut was = before.placed();
    if let Place::Area(report) = place {
        was.extend(report.findings.iter().map(|f| (report.area.as_str(), f)));
    }
    let tried = |mut found: Diagnosis| {
        let (mut mending, mut helping, mut costly) = (Vec::new(), Vec::new(), Vec::new());
        for mut remedy in std::mem::take(&mut found.remedies) {
            let Ok((next, _)) = job.apply(&remedy.edit) else {
                continue;
            };
            let after = assess_after(&next, Some(before));
            // Only an area's own heads are thrown anew.
            let thrown = match place {
                Place::Area(report) => area_report(&next, &after.solved_heads(), &report.area),
                Place::Valve(_) | Place::Supply(_) => None,
            };
            let mut now = after.placed();
            now.extend(thrown.iter().flat_map(|r| r.findings.iter().map(|f| (r.area.as_str(), f))));
            let off = off_band(&after);
            match outcome(&was, &now, place.id(), &found.finding) {
                Outcome::Mends => mending.push((off, remedy)),
                Outcome::Helps => {
                    remedy.mends = false;
                    helping.push((off, remedy));
                }
                Outcome::Costs(new) => {
                    remedy.costs = new;
                    costly.push((off, remedy));
                }
                Outcome::Hurts => {}
            }
        }
        let mut kept = [mending, helping, costly].into_iter().find(|k| !k.is_empty()).unwrap_or_default();
        // What is as near to the band stays in the order of what it takes: pipe before valves.
        kept.sort_by_key(|k| k.0);
        found.remedies = kept.into_iter().map(|k| k.1).collect();
        found
    };
    found.into_iter().map(tried).collect()
}

/// How far all heads of a job are off their bands together, in hundredths of their best pressure.
fn off_band(known: &Assessment) -> u64 {
    let zones = known.zones.iter().filter_map(|z| z.zone.as_ref().ok());
    let off = |h: &HeadResult| {
        let out = (h.band.least - h.nozzle).max(h.nozzle - h.band.most).max(Pressure::ZERO);
        out / h.band.best
    };
    (zones.flat_map(|z| &z.heads).map(off).sum::<f64>() * 100.0).round() as u64
}

/// A regulator that does not work, or heads that starve: no remedy brings these.
const NEVER: [&str; 5] =
    ["head-starved", "regulator-flow", "regulator-no-room", "system-regulator-no-room", "drip-over-rating"];

fn outcome(was: &[Placed<'_>], now: &[Placed<'_>], place: &str, mended: &Finding) -> Outcome {
    let home = |at: &str| -> bool { was.iter().any(|w| w.0 == at) };
    // What a new valve has is held against what the valve had that its heads come from.
    let worst_before = |at: &str, code: &str| -> Option<Severity> {
        let at = if home(at) { at } else { place };
        let same = was.iter().filter(|w| w.0 == at && w.1.code() == code);
        same.map(|w| w.1.severity).min()
    };
    let is_new = |p: &&Placed<'_>| worst_before(p.0, p.1.code()).is_none_or(|s| p.1.severity < s);
    let new: Vec<&Finding> = now.iter().filter(is_new).map(|p| p.1).collect();
    // A head that starved before is not to get still less.
    let starves_more = now.iter().any(|(at, f)| {
        let Check::HeadStarved { arrives, .. } = f.check else {
            return false;
        };
        was.iter().any(|w| match w.1.check {
            Check::HeadStarved { arrives: before, .. } => w.0 == *at && arrives < before * 0.99,
            _ => false,
        })
    });
    let useless = |f: &&Finding| NEVER.contains(&f.code()) || f.severity < mended.severity;
    let as_bad: Vec<Finding> =
        new.iter().filter(|f| f.severity == mended.severity).map(|f| (*f).clone()).collect();
    let stands = |p: &&Placed<'_>| {
        let here = p.0 == place || !home(p.0);
        here && p.1.code() == mended.code() && p.1.severity <= mended.severity
    };
    let before = was.iter().filter(stands).count();
    let after = now.iter().filter(stands).count();
    let mends = after == 0 || after < before;
    // The same fault on two valves instead of one is no help.
    let worse = starves_more || after > before || new.iter().any(useless);
    match (worse, as_bad.is_empty(), mends) {
        (true, ..) | (_, false, false) => Outcome::Hurts,
        (_, false, true) => Outcome::Costs(as_bad),
        (_, true, true) => Outcome::Mends,
        (_, true, false) => Outcome::Helps,
    }
}
