use super::GestureFault;
use crate::catalogue::{Catalogue, Nozzle};
use crate::plan::{Arrangement, DrawnHead, HeadGroup, Plan, Plants};
use crate::site::{Area, Point, Site};
use crate::units::Length;

/// How near a head must stand to a corner or an edge to belong to it, metres: the hand's breadth
/// that heads are kept off an edge, and a little more.
const BESIDE: f64 = 0.3;

/// What the ground says of a head.
pub(super) struct Stand {
    pub area: Option<String>,
    pub arc: u16,
    /// Degrees counter-clockwise from the right.
    pub facing: f64,
}

/// The area that a head at a point belongs to, and the arc that stays on it.
pub(super) fn stand(site: &Site, at: Point) -> Stand {
    let mut areas: Vec<(&str, &Area, Option<Stand>)> = Vec::new();
    for (thing, area) in site.areas() {
        let beside = beside(&thing.id, area, at);
        if beside.is_some() || area.shape.contains(at) {
            areas.push((&thing.id, area, beside));
        }
    }
    // Of areas on top of one another the smaller one is meant.
    let home = areas.into_iter().min_by(|a, b| a.1.shape.area_m2().total_cmp(&b.1.shape.area_m2()));
    match home {
        Some((_, _, Some(stand))) => stand,
        Some((id, _, None)) => Stand { area: Some(id.to_owned()), arc: 360, facing: 0.0 },
        None => Stand { area: None, arc: 360, facing: 0.0 },
    }
}

/// A head at a corner looks along the bisector of its edges, one on an edge straight in.
fn beside(id: &str, area: &Area, at: Point) -> Option<Stand> {
    let stand = |arc: f64, facing: f64| Stand {
        area: Some(id.to_owned()),
        arc: arc.round() as u16,
        facing: facing.rem_euclid(360.0),
    };
    for (i, ring) in area.shape.rings().enumerate() {
        // Counter-clockwise round the edge, clockwise round holes: the ground is to the left.
        let ring = if (ring.signed_area() > 0.0) == (i == 0) { ring.clone() } else { ring.reversed() };
        let edges: Vec<_> = ring.edges().collect();
        let n = edges.len();
        for k in 0..n {
            let (before, after) = (edges[(k + n - 1) % n], edges[k]);
            if after.from.distance(at) <= BESIDE {
                // Looking a little way along both edges: arcs count as they leave the corner.
                let out = after.from.direction_to(after.at(0.02));
                let back = after.from.direction_to(before.at(0.98));
                let arc = (back - out).rem_euclid(360.0);
                return Some(stand(arc, out + arc / 2.0));
            }
        }
        for edge in &edges {
            let steps = if edge.bulge == 0.0 { 1 } else { 32 };
            for s in 0..steps {
                let (a, b) =
                    (edge.at(f64::from(s) / f64::from(steps)), edge.at(f64::from(s + 1) / f64::from(steps)));
                if crate::site::to_segment(at, a, b) <= BESIDE {
                    return Some(stand(180.0, a.direction_to(b) + 90.0));
                }
            }
        }
    }
    None
}

pub(super) fn known<'a>(nozzle: &str, catalogue: &'a Catalogue) -> Result<&'a Nozzle, GestureFault> {
    match catalogue.nozzle(nozzle) {
        Some(n) if n.radius.is_some() => Ok(n),
        Some(n) => {
            Err(GestureFault::new(format!("{} is not a spray or rotor head. Add it on Heads", n.label)))
        }
        None => Err(GestureFault::new(format!("nozzle ‘{nozzle}’ is not in the catalog"))),
    }
}

/// A group of drawn heads. Plants, soil and sun are those of its area.
pub(crate) fn new_group(
    plan: &Plan,
    id: &str,
    nozzle: &Nozzle,
    area: Option<&str>,
    like: Option<&HeadGroup>,
    drawn: Vec<DrawnHead>,
) -> HeadGroup {
    let ground = area.and_then(|a| Some((plan.site.object(a)?, plan.site.area(a)?)));
    // Head to head: each head is to water a square as wide as its throw.
    let throw = nozzle.radius.unwrap_or(Length::from_ft(10.0));
    HeadGroup {
        id: id.to_owned(),
        name: ground.map_or_else(
            || like.map_or_else(|| "On the site plan".to_owned(), |l| l.name.clone()),
            |(t, _)| t.title().to_owned(),
        ),
        plants: ground.map_or_else(|| like.map_or(Plants::Lawn, |l| l.plants), |(_, a)| a.kind.plants()),
        exposure: ground.map(|(_, a)| a.exposure).or(like.map(|l| l.exposure)).unwrap_or_default(),
        soil: ground.map(|(_, a)| a.soil).or(like.map(|l| l.soil)).unwrap_or_default(),
        slope_percent: ground
            .map(|(_, a)| a.slope_percent)
            .or(like.map(|l| l.slope_percent))
            .unwrap_or_default(),
        nozzle: nozzle.id.clone(),
        area: area.map(str::to_owned),
        listed: Vec::new(),
        drawn,
        arrangement: Arrangement::Chain,
        spacing: throw,
        row_spacing: None,
        pipe: like.map_or_else(|| crate::usual::lateral(plan.units), |l| l.pipe.clone()),
        feed_pipe: like.and_then(|l| l.feed_pipe.clone()),
        distance: Length::from_ft(10.0),
        rise: Length::ZERO,
        row: None,
        drip: None,
    }
}
