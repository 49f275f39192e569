use crate::catalogue::Kind;
use crate::job::Job;
use crate::layout::{AdviceReason, advise};
use crate::site::AreaKind;
use crate::units::{Flow, Pressure};
use crate::water::SupplyPoint;

/// Why an area is not offered a kind.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum KindFault {
    /// The connection does not bring its nozzles to the bottom of their band.
    Pressure {
        /// What one head would get at the most.
        has: Pressure,
        /// The least of its band.
        wants: Pressure,
    },
}

/// Widths, ft, up to which drip is laid on a lawn too, and from which a kind's shortest throw finds room.
const DRIP_LAWN: f64 = 8.0;
const ROOM: [(Kind, f64, f64); 6] = [
    (Kind::Spray, 0.0, 45.0),
    (Kind::RotatorShort, 5.0, 30.0),
    (Kind::Rotator, 7.0, f64::MAX),
    (Kind::RotorShort, 14.0, f64::MAX),
    (Kind::RotorMid, 22.0, f64::MAX),
    (Kind::RotorLarge, 40.0, f64::MAX),
];
/// Under so much width only drip keeps to the ground of a lawn between pavements.
const STRIP: f64 = 3.0;
/// What valve, lateral and body cost at the least between the connection and a nozzle.
const ON_THE_WAY: f64 = 4.0;

/// Kinds of head that an area may have, the one that is usual for its ground first, and those that its water rules out.
/// What the ground or the house asks for by itself (rows in beds, water at plants, one school of heads) is offered alone.
pub fn kinds(job: &Job, area: &str) -> (Vec<Kind>, Vec<(Kind, KindFault)>) {
    let (Some(advice), Some(ground)) = (advise(job, area), job.site.area(area)) else {
        return (Vec::new(), Vec::new());
    };
    let width = advice.width.ft();
    let all: Vec<Kind> = match advice.why {
        AdviceReason::DripOnly
        | AdviceReason::Containers
        | AdviceReason::Rows
        | AdviceReason::Trees
        | AdviceReason::Bed
        | AdviceReason::HouseSprays => vec![advice.kind],
        AdviceReason::HouseRotators => vec![advice.kind, Kind::Rotator, Kind::RotatorShort],
        _ if width < STRIP => vec![Kind::Dripline],
        why => {
            let slow = matches!(why, AdviceReason::Slope | AdviceReason::HeavySoil | AdviceReason::Wind);
            let fits = ROOM.iter().filter(|(kind, least, most)| {
                (*least..=*most).contains(&width) && !(slow && *kind == Kind::Spray)
            });
            let drip = width < DRIP_LAWN || ground.kind != AreaKind::Lawn;
            let drip = drip.then_some(Kind::Dripline);
            std::iter::once(advice.kind).chain(fits.map(|f| f.0)).chain(drip).collect()
        }
    };
    let mut may = Vec::new();
    let mut not = Vec::new();
    for kind in all {
        if may.contains(&kind) {
            continue;
        }
        match pressure_fault(job, kind) {
            Some(fault) => not.push((kind, fault)),
            None => may.push(kind),
        }
    }
    if may.is_empty() {
        // Nothing gets what it wants: the usual kind says by how much.
        may.push(advice.kind);
    }
    (may, not)
}

/// The connection can't bring a kind's nozzle to the bottom of its band, even with one head running; unknown water
/// rules nothing out.
fn pressure_fault(job: &Job, kind: Kind) -> Option<KindFault> {
    let wants = job.catalogue().class(kind).band().least;
    let one = Flow::from_gpm(if kind == Kind::RotorLarge { 8.0 } else { 2.0 });
    let known = job.supplies.iter().map(|supply| SupplyPoint::of(job, supply).ok());
    let left = known.map(|point| Some(point?.at_connection(one) - Pressure::from_psi(ON_THE_WAY)));
    let has = left.collect::<Option<Vec<_>>>()?.into_iter().reduce(Pressure::max)?;
    (!kind.is_drip() && has < wants).then_some(KindFault::Pressure { has, wants })
}
