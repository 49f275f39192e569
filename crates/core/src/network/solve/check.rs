//! What is looked at before anything is solved.

use super::*;

/// Which nodes water can reach, along the arrows of one-way parts.
pub(super) fn reached(network: &Network) -> Vec<bool> {
    let mut next: Vec<Vec<usize>> = vec![Vec::new(); network.nodes.len()];
    for link in &network.links {
        match link.kind {
            LinkKind::Pipe { open: false, .. } => {}
            LinkKind::Pipe { .. } => {
                next[link.from].push(link.to);
                next[link.to].push(link.from);
            }
            _ => next[link.from].push(link.to),
        }
    }
    let mut seen = vec![false; network.nodes.len()];
    let mut stack: Vec<usize> = network.sources.iter().map(|s| s.node).collect();
    while let Some(node) = stack.pop() {
        if !std::mem::replace(&mut seen[node], true) {
            stack.extend(next[node].iter().filter(|n| !seen[**n]));
        }
    }
    seen
}

/// Refuses what would divide by zero or index past the end; readers give better messages earlier.
pub(super) fn check_figures(network: &Network) -> Result<(), SolveError> {
    let n = network.nodes.len();
    let bad = |part: &str| {
        Err(SolveError::BadFigure {
            part: format!("‘{part}’"),
        })
    };
    for node in &network.nodes {
        if !node.elevation.m().is_finite() {
            return bad(&node.id);
        }
    }
    for link in &network.links {
        let law = Law::of_link(&link.kind).at(1.0);
        let pipe_ok = match link.kind {
            LinkKind::Pipe {
                length,
                inside,
                roughness_c,
                minor_loss_k,
                ..
            } => length.m() > 0.0 && inside.m() > 0.0 && roughness_c > 0.0 && minor_loss_k >= 0.0,
            LinkKind::Regulator { set, .. } => set.kpa() > 0.0 && set.kpa().is_finite(),
            LinkKind::Device(_) => true,
        };
        if link.from >= n
            || link.to >= n
            || !pipe_ok
            || !law.0.is_finite()
            || !law.1.is_finite()
            || law.0 < 0.0
        {
            return bad(&link.id);
        }
    }
    for source in &network.sources {
        let (p, law) = Law::of_source(&source.law);
        if source.node >= n || !p.is_finite() || !law.at(1.0).0.is_finite() || law.at(1.0).0 < 0.0 {
            return bad("source");
        }
    }
    for emitter in &network.emitters {
        let law = EmitterLaw::of(&emitter.emission);
        let (h, slope) = law.at(1.0);
        if emitter.node >= n
            || !h.is_finite()
            || !slope.is_finite()
            || h <= 0.0
            || law.nominal() <= 0.0
            || law.limit <= 0.0
        {
            return bad(&emitter.id);
        }
    }
    Ok(())
}
