//! Whether the water there is flushes drip: how fast it runs to the row ends while the flush valve is open.

use super::figures::{ZoneAssessment, ZoneFault, assess_zone};
use super::head::Flushing;
use super::inputs::{GridInput, ZoneInputs};
use super::model::{ZoneModel, zone_model};
use crate::drip::{Part, open_end};
use crate::network::{Emitter, LinkKind, solve};
use crate::plan::{HeadRef, RowEnds};
use crate::units::Speed;

/// Velocity wanted at the row ends while they are flushed, ft/s.
///
/// # Source
/// 1 ft/s, as drip is usually designed to move settled silt.
pub const FLUSHED_FROM_FPS: f64 = 1.0;

/// The figures of a zone, its drip flushed as well.
///
/// # Errors
/// As [`assess_zone`].
pub fn assess_flushed(inputs: &ZoneInputs) -> Result<ZoneAssessment, ZoneFault> {
    let mut zone = assess_zone(inputs)?;
    let drip = inputs.drawn.iter().filter_map(|h| Some((h, h.grid.as_ref()?)));
    zone.flushing = drip.filter_map(|(h, grid)| flush(inputs, &h.head, grid)).collect();
    Ok(zone)
}

/// Opens the flush valve of one grid while the zone runs: rows joined by headers all at once, a snake at its
/// end with the way back shut, closed rows one at a time, of which the farthest counts.
fn flush(inputs: &ZoneInputs, head: &HeadRef, grid: &GridInput) -> Option<Flushing> {
    let mut model = zone_model(inputs);
    let name = format!("{}.{}", head.group, head.index + 1);
    let laid = model.grids.iter().find(|g| g.name == name)?.clone();
    let joint = grid.laid.flush?;
    let node = laid.nodes[joint]?;
    let part = |link: usize| grid.laid.tubes[laid.links[link - laid.first]].part;
    let of_grid = laid.first..laid.first + laid.links.len();
    for link in of_grid.clone().filter(|l| part(*l) == Part::Return) {
        if let LinkKind::Pipe { open, .. } = &mut model.network.links[link].kind {
            *open = false;
        }
    }
    let last = of_grid.clone().rev().find(|l| touches(&model, *l, node));
    let LinkKind::Pipe { inside, .. } = model.network.links[last?].kind else {
        return None;
    };
    let emission = open_end(inside);
    let id = "flush".to_owned();
    model.network.emitters.push(Emitter { id, node, emission });
    let solution = solve(&model.network).ok()?;
    let ends: Vec<usize> = match grid.ends {
        Some(RowEnds::Headers) => grid.laid.flushed.iter().filter_map(|j| laid.nodes[*j]).collect(),
        _ => vec![node],
    };
    // At a row's end the row itself counts, not the header across it.
    let speed_at = |end: usize| {
        let links = of_grid.clone().filter(|l| touches(&model, *l, end) && !matches!(part(*l), Part::Header));
        let speeds = links.filter_map(|l| solution.links[l].velocity).map(|v| v.mps().abs());
        speeds.reduce(f64::max)
    };
    let slowest = ends.into_iter().filter_map(speed_at).reduce(f64::min)?;
    Some(Flushing {
        head: head.clone(),
        slowest: Speed::from_mps(slowest),
        out: solution.emitters.last()?.flow,
        taken: solution.emitters.iter().map(|e| e.flow).sum(),
        inlet: solution.pressures[laid.nodes[0]?],
    })
}

fn touches(model: &ZoneModel, link: usize, node: usize) -> bool {
    let link = &model.network.links[link];
    link.from == node || link.to == node
}
