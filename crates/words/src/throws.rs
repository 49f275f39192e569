//! How far heads throw, and what a larger tube does for them.

use crate::Working;
use fenlo_core::catalogue::PipeId;
use fenlo_core::job::Job;
use fenlo_core::units::{Surface, UnitSystem};
use fenlo_core::zone::{OnPipe, Open, Throws};

/// Share of the nominal pressure under which heads fall short of their throw.
const AIM: f64 = 0.9;

/// A pipe as people call it.
pub fn pipe_title(job: &Job, id: &PipeId) -> String {
    job.catalogue()
        .pipe(id)
        .map_or_else(|| id.to_string(), |p| p.title())
}

/// Whether the lateral serves all heads at once, another size would, or none does.
pub fn throws_verdict(job: &Job, throws: &Throws) -> Option<String> {
    let (now, largest) = (throws.sizes.get(throws.now)?, throws.sizes.last()?);
    let all = now.open.last()?.heads;
    let title = |on: &OnPipe| pipe_title(job, &on.pipe);
    let serves_all = |on: &&OnPipe| on.most_at(AIM) == all;
    let of = |n: usize| match n {
        0 => "not one head".to_owned(),
        1 => format!("one of {all} heads"),
        n => format!("{n} of {all} heads"),
    };
    if all == 1 && serves_all(&now) {
        return Some(format!("{} serves it.{}", title(now), over_band(now)));
    }
    if serves_all(&now) {
        let smaller = throws.sizes[..throws.now].iter().rfind(serves_all);
        let does = smaller.map(|on| format!(" {} would do too.", title(on)));
        let less = throws.sizes[..throws.now].last().filter(|on| !serves_all(on));
        let less = less.map(|on| format!(" {} would serve {}.", title(on), of(on.most_at(AIM))));
        return Some(format!(
            "{} serves all {all} at once: none falls short of its throw.{}{}",
            title(now),
            does.or(less).unwrap_or_default(),
            over_band(now)
        ));
    }
    let serves = format!("{} serves {} at once", title(now), of(now.most_at(AIM)));
    if let Some(on) = throws.sizes.iter().find(serves_all) {
        return Some(format!("{serves}; {} serves all {all}: take that.", title(on)));
    }
    let larger = match largest.most_at(AIM) {
        _ if throws.now + 1 == throws.sizes.len() => String::new(),
        n if n == now.most_at(AIM) => format!("; {} serves no more", title(largest)),
        n => format!("; {} serves {}", title(largest), of(n)),
    };
    let turns = match largest.most_at(AIM) {
        0 => "Not even one keeps its throw: the supply is too weak for this nozzle; smaller nozzles."
            .to_owned(),
        n => format!(
            "The pressure is gone before the tube: run {} at a time, each lot on a station of its own, or take \
             smaller nozzles.",
            if n == 1 { "one".to_owned() } else { n.to_string() }
        ),
    };
    Some(format!("{serves}{larger}. {turns}{}", over_band(now)))
}

/// More than the band of the kind where few are open.
fn over_band(on: &OnPipe) -> String {
    let over = |o: &&Open| !o.works && o.share > 1.0;
    let most = on.open.iter().rfind(over).map(|o| o.heads);
    match most {
        None => String::new(),
        Some(1) => " One alone gets more pressure than its kind bears: regulate.".to_owned(),
        Some(n) => format!(" Up to {n} at once get more pressure than their kind bears: regulate."),
    }
}

const M2_PER_FT2: f64 = 0.092_903_04;

/// What is said of tube at a tap without computing, beside the figures.
pub fn tube_rule(u: UnitSystem) -> String {
    let [small, large] = [1200.0, 2000.0].map(|ft2| Surface::from_m2(ft2 * M2_PER_FT2).show(u));
    format!("Rule of thumb: half-inch tube carries a garden of {small}; from {large} take three-quarter.")
}

/// What a number of open heads throws and gets: “25 to 28 ft at 16.9 psi”.
pub fn throws_cell(open: &Open, u: UnitSystem) -> String {
    let (short, far) = (open.shortest.show(u), open.farthest.show(u));
    let throws = if short == far {
        short
    } else {
        format!("{short} to {far}")
    };
    format!("{throws} at {}", open.lowest.show(u))
}

/// How a throw came about.
pub fn throws_working(open: &Open, u: UnitSystem) -> Working {
    Working::new(
        "R = R₀ · (p / nominal)^0.3, no more than 3 % over R₀",
        "the zone solved with the first so many of its heads open; throw by class, planning figure",
    )
    .with("heads open", open.heads.to_string())
    .with("they take", open.flow.show(u))
    .with("least pressure at a nozzle", open.lowest.show(u))
    .with("of nominal", format!("{:.0} %", open.share * 100.0))
    .gives(open.shortest.show(u))
}
