use crate::catalogue::{Catalogue, Part, PartEnd, PartRole, Seal};
use std::collections::VecDeque;

/// A fitting of a chain, and how the joint before it is sealed.
#[derive(Debug, Clone, PartialEq)]
pub struct Joined {
    /// Id of the fitting; none: the far end itself.
    pub part: Option<String>,
    /// For people.
    pub label: String,
    /// The joint before it.
    pub seal: Seal,
}

/// The shortest chain of fittings of the catalogue from an outlet to an inlet, the joint with the inlet last;
/// just that joint where they fit by themselves. None where no chain leads there.
///
/// # Source
/// Breadth first (Moore 1959) over fittings either way round; of chains as short the first in the catalogue's
/// order.
pub fn chain_between(catalogue: &Catalogue, outlet: &PartEnd, inlet: &PartEnd) -> Option<Vec<Joined>> {
    let fittings: Vec<&Part> =
        catalogue.parts.iter().filter(|p| matches!(p.role, PartRole::Joint | PartRole::Transition)).collect();
    // Each way of using a fitting is reached once.
    let mut seen: Vec<(usize, bool)> = Vec::new();
    let mut queue: VecDeque<(PartEnd, Vec<Joined>)> = VecDeque::from([(outlet.clone(), Vec::new())]);
    while let Some((end, so_far)) = queue.pop_front() {
        if let Some(seal) = end.seal_to(inlet) {
            let mut chain = so_far;
            chain.push(Joined { part: None, label: String::new(), seal });
            return Some(chain);
        }
        for (i, fitting) in fittings.iter().enumerate() {
            let (Some(a), Some(b)) = (&fitting.inlet, &fitting.outlet) else {
                continue;
            };
            for (from, to, turned) in [(a, b, false), (b, a, true)] {
                let Some(seal) = end.seal_to(from).filter(|_| !seen.contains(&(i, turned))) else {
                    continue;
                };
                seen.push((i, turned));
                let mut chain = so_far.clone();
                chain.push(Joined { part: Some(fitting.id.clone()), label: fitting.label.clone(), seal });
                queue.push_back((to.clone(), chain));
            }
        }
    }
    None
}
