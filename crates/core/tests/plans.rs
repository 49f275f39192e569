//! Whole plans against what a good designer would take, and against plans drawn by hand and priced by the same book.
//! `plans/plans.py` writes grounds, hand plans and limits; it knows nothing of the program.

#![allow(clippy::unwrap_used, reason = "a test that can't go on fails")]

use fenlo_core::job::Job;
use fenlo_core::layout::LayoutFault;
use fenlo_core::plan::{ChainPart, DrawnHead, HeadGroup, Plan};
use fenlo_core::planning::{
    LayFault, Steps, TenYears, Wish, carry_out, plan, ten_years, with_planning_prices,
};
use fenlo_core::pricing::PriceBook;
use fenlo_core::progress::Progress;
use fenlo_core::site::Point;
use fenlo_core::units::Length;
use serde::Deserialize;
use std::fs;
use std::path::Path;
use std::thread;

const YEAR: i32 = 2026;

#[derive(Deserialize)]
struct Case {
    name: String,
    job: Plan,
    wanted: Wanted,
}

#[derive(Deserialize)]
struct Wanted {
    /// Heads and valves at the most.
    heads: Option<usize>,
    valves: Option<usize>,
    /// Heads as a hand draws them on the first area.
    hand: Vec<ByHand>,
    /// The only kinds that may be taken.
    kinds: Vec<String>,
    /// The system regulator is set from, to.
    system_psi: Option<(f64, f64)>,
    /// A device that the chain comes to have.
    device: Option<String>,
    /// Nothing of the ground is left.
    #[serde(default)]
    covered: bool,
}

#[derive(Deserialize)]
struct ByHand {
    nozzle: String,
    at: (f64, f64),
    arc: u16,
    facing: f64,
    radius: String,
}

/// The hand's heads on the case's ground, carried through the same steps and priced by the same book.
fn by_hand(case: &Case) -> Option<TenYears> {
    let first = case.wanted.hand.first()?;
    let mut job = case.job.clone();
    let drawn = case.wanted.hand.iter().enumerate().map(|(i, h)| DrawnHead {
        id: format!("h{i}"),
        at: Point::new(h.at.0, h.at.1),
        arc: h.arc,
        facing: h.facing,
        radius: Some(h.radius.parse::<Length>().unwrap()),
        valve: None,
        locked: false,
    });
    job.groups.push(HeadGroup {
        area: Some("a".into()),
        drawn: drawn.collect(),
        ..HeadGroup::new("g1", "a", &first.nozzle)
    });
    let job = Job::new(job);
    assert_eq!(job.faults(), [], "{}", case.name);
    let piped = carry_out(&job, Steps::ALL);
    Some(ten_years(&piped.job, &with_planning_prices(&PriceBook::default()), YEAR))
}

/// What is wrong with the plan that is proposed for a case.
fn judged(case: &Case) -> Vec<String> {
    let Case { name, job, wanted } = case;
    let wish = Wish { areas: Vec::new(), kind: None, steps: Steps::ALL, year: YEAR };
    let planned = plan(&Job::new(job.clone()), &wish, &PriceBook::default(), &Progress::default());
    let out = &planned.piped.job;
    let price = ten_years(out, &with_planning_prices(&PriceBook::default()), YEAR);
    let mut wrong = Vec::new();
    let mut hold = |holds: bool, what: String| {
        if !holds {
            wrong.push(format!("{name}: {what}"));
        }
    };
    let covered = |fault: &LayFault| *fault == LayFault::Heads(LayoutFault::Covered);
    hold(
        wanted.covered == planned.laid.iter().any(|l| l.made.as_ref().err().is_some_and(covered)),
        format!("{:?}", planned.laid.iter().filter_map(|l| l.made.as_ref().err()).collect::<Vec<_>>()),
    );
    hold((price.found.stop, price.found.fix) == (0, 0), format!("{:?}", price.found));
    hold(price.heads <= wanted.heads.unwrap_or(usize::MAX), format!("{} heads", price.heads));
    hold(price.valves <= wanted.valves.unwrap_or(usize::MAX), format!("{} valves", price.valves));
    let taken: Vec<String> =
        planned.choices.iter().map(|c| format!("{:?}", c.taken).to_lowercase()).collect();
    hold(wanted.kinds.is_empty() || taken.iter().all(|k| wanted.kinds.contains(k)), format!("{taken:?}"));
    let chain = || out.supplies[0].chain.iter().map(|c| &c.part);
    if let Some((low, high)) = wanted.system_psi {
        let set = chain().find_map(|p| match p {
            ChainPart::Regulator { set } => Some(set.psi()),
            _ => None,
        });
        hold(set.is_some_and(|s| (low..=high).contains(&s)), format!("system regulator {set:?}"));
    }
    if let Some(device) = &wanted.device {
        let has = |p: &ChainPart| matches!(p, ChainPart::Device { model } if model == device);
        hold(chain().any(has), format!("no {device} in {:?}", chain().collect::<Vec<_>>()));
    }
    if let Some(hand) = by_hand(case) {
        hold(
            price.weighed() <= 1.03 * hand.weighed(),
            format!(
                "{:.0} with {:?}, by hand {:.0} with {:?}",
                price.sum(),
                price.found,
                hand.sum(),
                hand.found
            ),
        );
    }
    wrong
}

#[test]
fn plans_are_as_good_as_a_designers_and_no_dearer_than_by_hand() {
    let file = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/plans/plans.json");
    let cases: Vec<Case> = serde_json::from_str(&fs::read_to_string(file).unwrap()).unwrap();
    assert!(cases.len() > 12);
    // Two at a time: one after the other they take a minute.
    let half = cases.len().div_ceil(2);
    let wrong: Vec<String> = thread::scope(|scope| {
        let run = |cases: &[Case]| cases.iter().flat_map(judged).collect::<Vec<_>>();
        let (first, second) = cases.split_at(half);
        let first = scope.spawn(move || run(first));
        let mut all = run(second);
        all.extend(first.join().unwrap());
        all
    });
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}
