//! Drip as it is laid, as part of a zone's network: every emitter a node, loops closed.

use super::bore::Bore;
use super::grow::{Builder, LaidGrid, Step};
use super::inputs::GridInput;
use crate::chain::pipe;
use crate::drip::{Part, open_end};
use crate::network::{Emission, Emitter};
use crate::units::Length;

impl GridInput {
    fn bore(&self, part: Part) -> Bore {
        match part {
            Part::Row(_) | Part::Turn => self.tube,
            Part::Micro => self.micro,
            Part::Header | Part::Return | Part::Feed | Part::Link | Part::Line => self.header,
        }
    }
}

/// Lays drip behind a node: its joints from the inlet on, tubes between them, emitters at them.
pub(super) fn lay(b: &mut Builder<'_>, inlet: usize, grid: &GridInput, watering: usize, name: &str) {
    let laid = &grid.laid;
    let mut of_joint: Vec<Vec<usize>> = vec![Vec::new(); laid.joints.len()];
    for (i, tube) in laid.tubes.iter().enumerate() {
        of_joint[tube.from].push(i);
        of_joint[tube.to].push(i);
    }
    let mut nodes: Vec<Option<usize>> = vec![None; laid.joints.len()];
    let mut done = vec![false; laid.tubes.len()];
    nodes[0] = Some(inlet);
    let mut queue = std::collections::VecDeque::from([0]);
    let first = b.network.links.len();
    let mut links = Vec::new();
    while let Some(here) = queue.pop_front() {
        let Some(node) = nodes[here] else { continue };
        for &i in &of_joint[here] {
            if std::mem::replace(&mut done[i], true) {
                continue;
            }
            let tube = &laid.tubes[i];
            let other = if tube.from == here { tube.to } else { tube.from };
            let bore = grid.bore(tube.part);
            // Emitters and barbs of a row count in its C; headers have the allowance for fittings.
            let fittings = if matches!(tube.part, Part::Row(_)) { 0.0 } else { b.inputs.fittings };
            let length = tube.length.max(Length::from_m(0.001));
            let kind = pipe(length, bore.inside, bore.c, fittings);
            links.push(i);
            match nodes[other] {
                Some(end) => b.join(node, end, kind, Step::Drip(tube.part)),
                None => {
                    let rise = laid.joints[other].height - laid.joints[here].height;
                    let id = format!("{name}j{other}");
                    nodes[other] = Some(b.extend(node, kind, rise, Step::Drip(tube.part), id));
                    queue.push_back(other);
                }
            }
        }
    }
    let mut nozzle = b.inputs.waterings[watering].nozzle.clone();
    for (i, emitter) in laid.emitters.iter().enumerate() {
        let Some(node) = nodes[emitter.joint] else {
            continue;
        };
        if emitter.open {
            let id = format!("{name}e{}", i + 1);
            let emission = open_end(grid.micro.inside);
            b.network.emitters.push(Emitter { id, node, emission });
            continue;
        }
        nozzle.flow = emitter.flow;
        b.emit(node, format!("{name}e{}", i + 1), &nozzle, watering, (360, None));
        // An emitter's flow goes by the square root of its pressure, if it does not compensate, as that of what it feeds
        // does: both together are one that needs so much more.
        match b.network.emitters.last_mut().map(|e| &mut e.emission) {
            Some(Emission::Compensating { min: needs, .. })
            | Some(Emission::Orifice { at_pressure: needs, .. }) => *needs = *needs + emitter.behind,
            None => {}
        }
    }
    b.grids.push(LaidGrid { name: name.to_owned(), first, links, nodes });
}
