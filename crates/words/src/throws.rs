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
    job.catalogue().pipe(id).map_or_else(|| id.to_string(), |p| p.title())
}

/// Whether the lateral serves all heads at once, another size would, or none does.
pub fn throws_verdict(job: &Job, throws: &Throws) -> Option<String> {
    let (now, largest) = (throws.sizes.get(throws.now)?, throws.sizes.last()?);
    let all = now.open.last()?.heads;
    let title = |on: &OnPipe| pipe_title(job, &on.pipe);
    let serves_all = |on: &&OnPipe| on.most_at(AIM) == all;
    let of = |n: usize| match n {
        0 => "no head".to_owned(),
        1 => format!("1 of {all} heads"),
        n => format!("{n} of {all} heads"),
    };
    if all == 1 && serves_all(&now) {
        return Some(format!("{} is large enough.{}", title(now), over_band(now)));
    }
    if serves_all(&now) {
        let smaller = throws.sizes[..throws.now].iter().rfind(serves_all);
        let does = smaller.map(|on| format!(" {} would also work.", title(on)));
        let less = throws.sizes[..throws.now].last().filter(|on| !serves_all(on));
        let less = less.map(|on| format!(" {} would supply {}.", title(on), of(on.most_at(AIM))));
        return Some(format!(
            "{} supplies all {all} heads at once at full radius.{}{}",
            title(now),
            does.or(less).unwrap_or_default(),
            over_band(now)
        ));
    }
    let serves = format!("{} supplies {} at once", title(now), of(now.most_at(AIM)));
    if let Some(on) = throws.sizes.iter().find(serves_all) {
        return Some(format!("{serves}; {} supplies all {all}. Use that size.", title(on)));
    }
    let larger = match largest.most_at(AIM) {
        _ if throws.now + 1 == throws.sizes.len() => String::new(),
        n if n == now.most_at(AIM) => format!("; {} supplies no more", title(largest)),
        n => format!("; {} supplies {}", title(largest), of(n)),
    };
    let turns = match largest.most_at(AIM) {
        0 => "Not even one head reaches its radius: the supply is too weak for this nozzle. Use smaller \
            nozzles."
            .to_owned(),
        n => format!(
            "The pressure is lost before the tubing. Run {} at a time, each group on its own station, or \
                use smaller nozzles.",
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
        Some(1) => " A single head gets more pressure than its type allows. Add a regulator.".to_owned(),
        Some(n) => {
            format!(" Up to {n} heads at once get more pressure than their type allows. Add a regulator.")
        }
    }
}

const M2_PER_FT2: f64 = 0.092_903_04;

/// What is said of tube at a tap without computing, beside the figures.
pub fn tube_rule(u: UnitSystem) -> String {
    let [small, large] = [1200.0, 2000.0].map(|ft2| Surface::from_m2(ft2 * M2_PER_FT2).show(u));
    format!("Rule of thumb: 1/2 in tubing for areas up to {small}; 3/4 in from {large}.")
}

/// What a number of open heads throws and gets: “25 to 28 ft at 16.9 psi”.
pub fn throws_cell(open: &Open, u: UnitSystem) -> String {
    let (short, far) = (open.shortest.show(u), open.farthest.show(u));
    let throws = if short == far { short } else { format!("{short} to {far}") };
    format!("{throws} at {}", open.lowest.show(u))
}

/// How a throw came about.
pub fn throws_working(open: &Open, u: UnitSystem) -> Working {
    Working::new(
        "R = R₀ · (p / rated)^0.3, at most 3% above R₀",
        "zone solved with this many heads open, nearest first; radius typical for this head type",
    )
    .with("heads open", open.heads.to_string())
    .with("flow", open.flow.show(u))
    .with("lowest nozzle pressure", open.lowest.show(u))
    .with("share of rated pressure", format!("{:.0}%", open.share * 100.0))
    .gives(open.shortest.show(u))
}
