//! Where a valve box can stand.

use super::ground::{Cover, Ground};
use crate::job::Job;
use crate::site::{ObjectKind, Point};

/// Ground within so much of the lowest counts as the low spot, m, where heights differ at all.
const LOW: f64 = 0.15;

/// Why a box stands badly.
#[derive(Debug, Clone, PartialEq)]
pub enum BadPlace {
    /// In or on something: its name on the plan.
    On(String),
    /// Under the canopy of a tree, as it will be.
    Canopy(String),
    /// In the low spot, where water stands.
    Low,
}

/// What is wrong with a box at a place; nothing: it can stand there.
pub fn bad_place(job: &Job, ground: &Ground, at: Point) -> Option<BadPlace> {
    for cover in [Cover::Barred, Cover::Paved] {
        if let Some(id) = ground.at(at, cover) {
            return Some(BadPlace::On(id.to_owned()));
        }
    }
    for object in &job.site.objects {
        if let ObjectKind::Plant(plant) = &object.what
            && plant.canopy.m() >= 2.5
            && plant.spots().iter().any(|p| p.distance(at) < plant.canopy.m() / 2.0)
        {
            return Some(BadPlace::Canopy(object.id.clone()));
        }
    }
    let heights = job.site.heights();
    let all = || heights.iter().map(|h| h.1.m());
    let (low, high) = (all().fold(f64::MAX, f64::min), all().fold(f64::MIN, f64::max));
    (high - low > 2.0 * LOW && job.ground(at).m() < low + LOW).then_some(BadPlace::Low)
}
