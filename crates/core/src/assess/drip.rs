//! Drip of a valve as it is laid and solved, all of its parts together.

use super::{Assessment, SupplyAssessment, ZoneReport};
use crate::drip::Laid;
use crate::job::Job;
use crate::plan::DripLaying;
use crate::units::{Flow, Length, Pressure, Rate, Speed};
use crate::water::SupplyPoint;
use std::sync::Arc;

/// What valve, filter and a regulator wide open take of drip's pressure, planned for before it is laid, psi.
const PARTS_PSI: f64 = 8.0;
/// Pressure that drip is usually regulated to, psi.
const HELD_PSI: f64 = 25.0;
/// No tap gives more, gpm: where the search for a flow begins.
const MOST_GPM: f64 = 400.0;

impl Assessment {
    /// What one valve of drip may take, before any is laid: what the connection lets any valve take, and the
    /// flow at which it still gives the regulator its room; where only a static pressure is known, what the
    /// house assumes of a small line. None where the water is not known. Of several
    /// connections the one that gives most.
    pub fn flow_for_drip(&self, job: &Job) -> Option<Flow> {
        let want = Pressure::from_psi(HELD_PSI + PARTS_PSI) + job.rules.regulator_room;
        let of = |s: &SupplyAssessment| {
            let own = s.point.as_ref().ok().and_then(|point| flow_at(point, want));
            let own = own.map(|q| (q - job.rules.house_demand) * (1.0 - job.rules.flow_margin));
            // A reading with water running is better than what the house assumes.
            let assumed = s.design.assumed.is_some() && own.is_some();
            let limit = s.design.limit().filter(|_| !assumed);
            limit.into_iter().chain(own).reduce(Flow::min).filter(|q| *q > Flow::ZERO)
        };
        self.supplies.iter().filter_map(of).reduce(Flow::max)
    }
}

/// The flow at which a connection still gives a pressure; none where its pressure does not fall with the flow
/// (static alone is known), or where it never gives as much.
fn flow_at(point: &SupplyPoint, want: Pressure) -> Option<Flow> {
    let (mut low, mut high) = (Flow::ZERO, Flow::from_gpm(MOST_GPM));
    if point.at_connection(high) >= want || point.at_connection(low) < want {
        return None;
    }
    for _ in 0..60 {
        let middle = (low + high) * 0.5;
        if point.at_connection(middle) >= want {
            low = middle;
        } else {
            high = middle;
        }
    }
    Some(low)
}

/// Drip of one valve.
#[derive(Debug, Clone, PartialEq)]
pub struct DripReport {
    /// What is laid, in the plan's order.
    pub laid: Vec<Arc<Laid>>,
    /// Rows.
    pub rows: usize,
    /// Emitters.
    pub emitters: usize,
    /// Tube with emitters, or the line past plants.
    pub tubing: Length,
    /// Header, feed and links.
    pub plain: Length,
    /// At the emitter that has least.
    pub lowest: Pressure,
    /// At the emitter that has most.
    pub highest: Pressure,
    /// The slowest row end while it is flushed; none where it could not be solved.
    pub flush: Option<Speed>,
    /// One emitter over its share of the ground: rows and emitters as they lie; by the ground's area where
    /// emitters stand at plants.
    pub rate: Rate,
    /// The longest row.
    pub longest_row: Length,
    /// What they take together.
    pub flow: Flow,
}

/// The drip that is laid on a valve; none where none is, or where the zone has no figures.
pub fn drip_report(job: &Job, report: &ZoneReport) -> Option<DripReport> {
    let (inputs, zone) = (report.inputs.as_ref()?, report.zone.as_ref().ok()?);
    let mut out: Option<DripReport> = None;
    let (mut given, mut ground) = (0.0, 0.0);
    for head in &inputs.drawn {
        let Some(grid) = &head.grid else { continue };
        let Some(found) = zone.head(&head.head.group, head.head.index) else {
            continue;
        };
        let laid = &grid.laid;
        let rows = job.group(&head.head.group).and_then(|g| g.drip.as_ref());
        ground += match rows {
            Some(DripLaying::Rows(rows)) if laid.row_spacing > Length::ZERO => {
                laid.emitters.len() as f64 * laid.row_spacing.m() * rows.emitter_spacing.m()
            }
            _ => laid.ground_m2,
        };
        given += found.flow.lpm();
        let flush = zone.flushing.iter().find(|f| f.head == head.head).map(|f| f.slowest);
        let tubing = if laid.rows.is_empty() { laid.plain_tube() } else { laid.dripline() };
        let plain = if laid.rows.is_empty() { Length::ZERO } else { laid.plain_tube() };
        let all = out.get_or_insert_with(|| DripReport {
            laid: Vec::new(),
            rows: 0,
            emitters: 0,
            tubing: Length::ZERO,
            plain: Length::ZERO,
            lowest: found.nozzle,
            highest: found.highest,
            flush,
            rate: Rate::ZERO,
            longest_row: Length::ZERO,
            flow: Flow::ZERO,
        });
        all.laid.push(Arc::clone(laid));
        all.rows += laid.rows.len();
        all.emitters += laid.emitters.len();
        all.tubing = all.tubing + tubing;
        all.plain = all.plain + plain;
        all.lowest = all.lowest.min(found.nozzle);
        all.highest = all.highest.max(found.highest);
        all.flush = all.flush.zip(flush).map(|(a, b)| a.min(b));
        all.longest_row = all.longest_row.max(laid.longest_row());
        all.flow = all.flow + found.flow;
        all.rate = Rate::from_mmph(given * 60.0 / ground.max(1e-9));
    }
    out
}
