//! What is looked at before anything is solved: what would divide by zero or index past the end is
//! refused. Readers give better messages earlier.

use super::*;

fn bad(part: &str) -> SolveError {
    SolveError::BadFigure { part: format!("‘{part}’") }
}

/// The ways that the links are, and their laws.
pub(super) fn ways_of(network: &Network) -> Result<(Vec<Way>, Vec<Law<'_>>), SolveError> {
    let n = network.nodes.len();
    if let Some(node) = network.nodes.iter().find(|n| !n.elevation.m().is_finite()) {
        return Err(bad(&node.id));
    }
    let count = network.links.len();
    let (mut ways, mut laws) = (Vec::with_capacity(count), Vec::with_capacity(count));
    let mut bores = Bores::default();
    for link in &network.links {
        let sound = match link.kind {
            LinkKind::Pipe { length, inside, roughness_c, minor_loss_k, .. } => {
                let finite = length.m().is_finite() && inside.m().is_finite() && minor_loss_k.is_finite();
                finite && length.m() > 0.0 && inside.m() > 0.0 && roughness_c > 0.0 && minor_loss_k >= 0.0
            }
            LinkKind::Regulator { set, .. } => set.kpa() > 0.0 && set.kpa().is_finite(),
            LinkKind::Device(_) => true,
        };
        let law = bores.law_of(&link.kind);
        if link.from >= n || link.to >= n || !sound || !costs(&law) {
            return Err(bad(&link.id));
        }
        ways.push(Way::of(link));
        laws.push(law);
    }
    Ok((ways, laws))
}

/// Whether a law's figures can be computed with.
fn costs(law: &Law<'_>) -> bool {
    match law {
        Law::Pipe { r, m, .. } => r.is_finite() && m.is_finite(),
        law => {
            let (h, slope) = law.at(1.0);
            h.is_finite() && slope.is_finite() && h >= 0.0
        }
    }
}

/// Shut-off pressure and fall of every source.
pub(super) fn sources_of(network: &Network) -> Result<Vec<(f64, Law<'_>)>, SolveError> {
    let sources = network.sources.iter().map(|source| {
        let (p, law) = Law::of_source(&source.law);
        let fall = law.at(1.0).0;
        if source.node < network.nodes.len() && p.is_finite() && fall.is_finite() && fall >= 0.0 {
            Ok((p, law))
        } else {
            Err(bad("source"))
        }
    });
    sources.collect()
}

/// The laws of the emitters.
pub(super) fn emitters_of(network: &Network) -> Result<EmitterLaws, SolveError> {
    let mut laws = EmitterLaws { laws: Vec::new(), of: Vec::with_capacity(network.emitters.len()) };
    let mut before: Option<&Emission> = None;
    for emitter in &network.emitters {
        if before != Some(&emitter.emission) {
            let law = EmitterLaw::of(&emitter.emission);
            if !law.is_sound() {
                return Err(bad(&emitter.id));
            }
            laws.laws.push(law);
            before = Some(&emitter.emission);
        }
        if emitter.node >= network.nodes.len() {
            return Err(bad(&emitter.id));
        }
        laws.of.push((laws.laws.len() as u32 - 1, emitter.node as u32));
    }
    Ok(laws)
}
