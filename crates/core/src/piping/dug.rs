use super::tree::{Tree, TreeEdge};
use crate::earthwork::{Stretch, beside, gaps};

/// What is dug already.
#[derive(Debug, Clone, Default)]
pub(super) struct Dug(pub(super) Vec<Stretch>);

impl Dug {
    /// As metres of plain trench, what a tree still has to dig.
    pub(super) fn left_of(&self, tree: &Tree) -> f64 {
        let left = |e: &TreeEdge| {
            let (a, b) = (tree.points[e.a], tree.points[e.b]);
            let taken = self.0.iter().filter_map(|s| beside(a, b, s.a, s.b)).collect();
            let new: f64 = gaps(taken).iter().map(|(s, t)| t - s).sum();
            e.cost * new
        };
        tree.edges.iter().map(left).sum()
    }
}
