use super::GestureFault;
use crate::catalogue::{Catalogue, Nozzle};
use crate::plan::{Arrangement, DrawnHead, HeadGroup, Plan, Plants};
use crate::units::Length;

pub(super) fn known<'a>(nozzle: &str, catalogue: &'a Catalogue) -> Result<&'a Nozzle, GestureFault> {
    match catalogue.nozzle(nozzle) {
        Some(n) if n.radius.is_some() => Ok(n),
        Some(n) => Err(GestureFault::new(format!("{} does not throw: list it on Heads instead", n.label))),
        None => Err(GestureFault::new(format!("‘{nozzle}’ is not in the catalogue of nozzles"))),
    }
}

/// A group with one drawn head. Plants, soil and sun are those of its area.
pub(super) fn new_group(plan: &Plan, id: &str, nozzle: &str, area: Option<&str>, like: Option<&HeadGroup>, head: DrawnHead) -> HeadGroup {
    let ground = area.and_then(|a| Some((plan.site.thing(a)?, plan.site.area(a)?)));
    // Head to head: each head is to water a square as wide as its throw.
    let throw = Catalogue::builtin().nozzle(nozzle).and_then(|n| n.radius).unwrap_or(Length::from_ft(10.0));
    HeadGroup {
        id: id.to_owned(),
        name: ground.map_or_else(|| like.map_or_else(|| "On the board".to_owned(), |l| l.name.clone()), |(t, _)| t.title().to_owned()),
        plants: ground.map_or_else(|| like.map_or(Plants::Lawn, |l| l.plants), |(_, a)| a.kind.plants()),
        exposure: ground.map(|(_, a)| a.exposure).or(like.map(|l| l.exposure)).unwrap_or_default(),
        soil: ground.map(|(_, a)| a.soil).or(like.map(|l| l.soil)).unwrap_or_default(),
        slope_percent: ground.map(|(_, a)| a.slope_percent).or(like.map(|l| l.slope_percent)).unwrap_or_default(),
        nozzle: nozzle.to_owned(),
        area: area.map(str::to_owned),
        lots: Vec::new(),
        drawn: vec![head],
        arrangement: Arrangement::Chain,
        spacing: throw,
        row_spacing: None,
        pipe: like.map_or_else(|| crate::catalogue::PipeId { material: "class-200".into(), size: "1in".into() }, |l| l.pipe.clone()),
        feed_pipe: like.and_then(|l| l.feed_pipe.clone()),
        distance: Length::from_ft(10.0),
        rise: Length::ZERO,
        row: None,
    }
}
