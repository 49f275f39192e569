//! What mends drawn pipe: offered, and it mends.

use crate::assess::assess;
use crate::earthwork::Contents;
use crate::findings::tests::piping::{codes, dry, leg, mark, piped, site};
use crate::job::Job;
use crate::plan::{LegOf, Plan, Regulation, Valve};
use crate::remedies::{self, Action, Diagnosis, Effect, Remedy};
use crate::site::tests::rect;
use crate::site::{DryKind, PlaceKind};
use crate::units::{Length, Pressure};

/// The first remedy of a finding, wherever it is told.
fn offered(plan: &Plan, code: &str) -> Option<Remedy> {
    let job = Job::new(plan.clone());
    let known = assess(&job);
    let zones = job.valves.iter().flat_map(|v| remedies::of_zone(&job, &known, v));
    let mains = job.supplies.iter().flat_map(|s| remedies::of_supply(&job, &known, s));
    let found: Vec<Diagnosis> = zones.chain(mains).collect();
    let of = found.into_iter().find(|f| f.finding.code() == code);
    of.expect("told").remedies.into_iter().next()
}
/// With the remedy taken; nothing of the kind is told any more.
fn mended(plan: &Plan, code: &str) -> (Plan, Remedy) {
    let remedy = offered(plan, code).expect("a remedy");
    let job = Job::new(plan.clone());
    let after = job.apply(&remedy.edit).expect("applies").0.plan().clone();
    assert!(!codes(&after).contains(&code), "{code} stands after {remedy:?}");
    (after, remedy)
}

#[test]
fn a_lateral_that_wanders_is_laid_anew() {
    let mut plan = site(vec![]);
    let order = ["v1", "h0", "h5", "h1", "h4", "h2", "h3"];
    plan.piping.legs =
        (0..6).map(|i| leg(&format!("p{i}"), LegOf::Lateral("v1".into()), order[i], order[i + 1])).collect();
    plan.valves[0].regulation = Regulation::Valve { set: Pressure::from_psi(35.0) };
    let (_, remedy) = mended(&plan, "lateral-long");
    let Effect::Pipe { becomes, was } = remedy.effect else { panic!("{remedy:?}") };
    // By hand: 4.3 + 8.9 + 5.7 + 5.7 + 4.0 + 8.9 m now; six heads in two rows of three, 4 m apart, on 24.3 at most.
    assert!((was.m() - 37.5).abs() < 0.1 && becomes.m() < 24.4, "{remedy:?}");
    // What is kept is not laid anew.
    for leg in &mut plan.piping.legs {
        leg.kept = true;
    }
    assert!(offered(&plan, "lateral-long").is_none());
}

#[test]
fn a_house_built_over_a_lateral_is_gone_round() {
    let mut plan = piped(&site(vec![]));
    plan.site.objects.push(dry("Shed", DryKind::Building, rect(6.0, 2.0, 1.0, 7.0)));
    let (_, remedy) = mended(&plan, "pipe-under");
    assert_eq!(remedy.action, Action::Reroute);
}

#[test]
fn crossings_get_sleeves_and_frost_more_depth() {
    let mut plan = piped(&site(vec![]));
    plan.site.objects.push(dry("Path", DryKind::Path, rect(6.0, -1.0, 1.0, 12.0)));
    let (after, remedy) = mended(&plan, "unsleeved-crossing");
    let Effect::Sleeved { length } = remedy.effect else { panic!("{remedy:?}") };
    let sleeved = after.piping.legs.iter().filter(|l| l.sleeve.is_some()).count();
    assert_eq!(remedy.action, Action::Sleeves(sleeved));
    // Each crosses a path of 1 m, at a right angle or nearly.
    let crossings = sleeved as f64;
    assert!(length.m() >= crossings * 0.99 && length.m() < crossings * 1.5, "{length:?}");
    let mut plan = piped(&site(vec![]));
    plan.rules.trench.frost_depth = Length::from_in(16.0);
    let (after, _) = mended(&plan, "above-frost");
    let laterals = || after.piping.lateral("v1");
    assert!(laterals().all(|l| l.depth == Some(Length::from_in(16.0))));
    assert!(after.piping.main("s1").all(|l| l.depth.is_none()), "18 in are enough");
}

#[test]
fn what_is_too_much_for_a_box_goes_into_one_beside_it() {
    // Three valves and two with filters: seven places, five in the largest box.
    let mut plan = piped(&site(vec![]));
    for i in 2..6 {
        let filter = (i > 3).then(|| "filter-3/4in".to_owned());
        plan.valves.push(Valve {
            valve_box: Some("x1".into()),
            filter,
            ..Valve::new(&format!("v{i}"), "More", "s1")
        });
    }
    let (after, remedy) = mended(&plan, "box-full");
    let held = |valves, filters| Contents { valves, filters };
    assert_eq!(remedy.effect, Effect::Boxes(held(3, 0), held(2, 2)));
    let moved = after.valves.iter().filter(|v| v.valve_box.as_deref() != Some("x1"));
    assert_eq!(moved.map(|v| v.id.as_str()).collect::<Vec<_>>(), ["v4", "v5"]);
    // The main goes on to it.
    let id = after.valves[4].valve_box.clone().expect("a box");
    assert!(after.piping.legs.iter().any(|l| l.is_main() && l.from == "x1" && l.to == id));
    // Walled in, there is no place for it.
    let mut tight = plan.clone();
    for (i, (x, y, w, h)) in [(-2.0, 0.8, 5.0, 3.0), (-2.0, -2.8, 5.0, 3.0)].into_iter().enumerate() {
        let wall = dry(&format!("W{i}"), DryKind::Building, rect(x, y, w, h));
        tight.site.objects.push(wall);
    }
    tight.site.objects.push(mark("x8", PlaceKind::ValveBox, 1.2, 0.5));
    tight.site.objects.push(mark("x9", PlaceKind::ValveBox, -0.3, 0.5));
    assert!(offered(&tight, "box-full").is_none());
}
