use super::*;
use crate::assess::assess;
use crate::plan::tests::group;
use crate::plan::{DrawnHead, Edit, HeadGroup, Plan};
use crate::site::tests::{lawn, rect};
use crate::site::{Point, SiteObject};
use crate::steps::{Step, StepState};
use crate::units::Length;
use crate::zone::tests::plan;

fn verdict(plan: &Plan) -> Verdict {
    let job = Job::of(plan);
    Verdict::of(&job, &assess(&job), 2026, &KeptAreas::default())
}

fn codes(verdict: &Verdict, severity: Severity) -> Vec<&'static str> {
    verdict
        .entries()
        .iter()
        .map(|e| &e.finding)
        .filter(|f| f.severity == severity)
        .map(|f| f.code())
        .collect()
}

/// A lawn with four heads that water it, and one that nothing waters yet.
fn two_lawns() -> Plan {
    let mut p = plan(60.0, "spray-12", &[]);
    p.groups.clear();
    let at = |id: &str, name: &str, x: f64| SiteObject {
        id: id.into(),
        name: name.into(),
        ..lawn(id, rect(x, 0.0, 3.6, 3.6))
    };
    p.site.objects.extend([at("a1", "Front", 0.0), at("a2", "Back", 20.0)]);
    let corner = |i: usize, x: f64, y: f64, facing: f64| DrawnHead {
        id: format!("h{i}"),
        at: Point::new(x, y),
        arc: 90,
        facing,
        radius: None,
        valve: Some("v1".into()),
        locked: false,
    };
    let drawn = vec![
        corner(1, 0.06, 0.06, 45.0),
        corner(2, 3.54, 0.06, 135.0),
        corner(3, 3.54, 3.54, 225.0),
        corner(4, 0.06, 3.54, 315.0),
    ];
    p.groups.push(HeadGroup { area: Some("a1".into()), drawn, ..HeadGroup::new("g1", "Front", "spray-12") });
    p
}

#[test]
fn the_total_is_the_sum_of_everything_that_is_found() {
    let job = Job::of(&two_lawns());
    let known = assess(&job);
    let verdict = Verdict::of(&job, &known, 2026, &KeptAreas::default());
    let of_zones: usize = known.zones.iter().map(|z| z.findings.len()).sum();
    let of_supplies: usize = known.supplies.iter().map(|s| s.findings.len()).sum();
    let reports = crate::assess::area_reports(&job, &known.solved_heads());
    let of_areas: usize = reports.iter().map(|r| r.findings.len()).sum();
    let joints = verdict.taken().findings(&job).len();
    let open = open::entries(&job, &known, verdict.taken()).len();
    assert!(of_areas > 0 && open > 0, "{of_areas} of areas, {open} open");
    let Total { stop, fix, watch, open: opens } = verdict.total();
    assert_eq!(stop + fix + watch + opens, of_zones + of_supplies + of_areas + joints + open);
    assert_eq!(opens, open);
    assert!(verdict.entries().windows(2).all(|w| w[0].finding.severity <= w[1].finding.severity));
    let with = Verdict::with_areas(&job, &known, 2026, &reports);
    assert_eq!((with.total(), with.even(&job)), (verdict.total(), Evennesses::of(&job, &known)));
}

#[test]
fn what_is_not_planned_yet_is_open_and_keeps_every_later_step_open() {
    let mut p = two_lawns();
    let open = codes(&verdict(&p), Severity::Open);
    assert_eq!(
        open,
        ["area-empty", "wire-not-counted", "valve-without-main", "valve-without-lateral", "no-climate"]
    );
    let back = Subject::Area("a2".into());
    assert_eq!(verdict(&p).total_at(&back), Total { open: 1, ..Total::default() });
    // Installed later: nothing is missing there.
    p.site.objects.iter_mut().filter(|o| o.id == "a2").for_each(|o| {
        let crate::site::ObjectKind::Area(area) = &mut o.what else { panic!("a lawn") };
        area.later = true;
    });
    assert!(!codes(&verdict(&p), Severity::Open).contains(&"area-empty"));

    let mut loose = two_lawns();
    loose.groups.push(group("g9", "rotor-2", &[(180, 3)]));
    loose.groups[1].listed.iter_mut().for_each(|l| l.valve = None);
    loose.valves.push(crate::plan::tests::valve("v2"));
    let told = verdict(&loose);
    let open = codes(&told, Severity::Open);
    assert!(open.contains(&"heads-without-valve") && open.contains(&"valve-without-heads"), "{open:?}");
    let job = Job::of(&loose);
    for step in [Step::Heads, Step::Valves, Step::Pressure, Step::Times, Step::Parts] {
        assert_eq!(step.state(&job, &told), StepState::Open, "{step:?} rests on a bed without heads");
    }
}

#[test]
fn areas_whose_heads_and_ground_are_the_same_are_kept_and_come_to_the_same() {
    let job = Job::of(&two_lawns());
    let first = Verdict::of(&job, &assess(&job), 2026, &KeptAreas::default());
    let again = |edit: Edit| {
        let (next, _) = job.apply(&edit).unwrap();
        let kept = first.areas_for(&job, &next);
        let known = assess(&next);
        let fresh = Verdict::of(&next, &known, 2026, &KeptAreas::default());
        assert_eq!(Verdict::of(&next, &known, 2026, &kept).entries(), fresh.entries());
        fresh
    };
    let renamed = HeadGroup { name: "Lawn".into(), ..job.groups[0].clone() };
    assert_eq!(again(Edit::put(renamed)).areas, first.areas);
    let mut higher = job.groups[0].clone();
    higher.drawn[0].at.x += 1.0;
    higher.rise = Length::from_ft(1.0);
    assert_ne!(again(Edit::put(higher)).areas, first.areas);
    let ground = crate::plan::Edit::remove::<SiteObject>("a2");
    assert!(codes(&again(ground), Severity::Open).iter().all(|c| *c != "area-empty"));
}

#[test]
fn a_night_that_does_not_fit_its_window_is_told() {
    let mut p = plan(60.0, "rotor-2", &[(180, 4)]);
    p.groups.push(group("g2", "rotor-2", &[(180, 4)]));
    p.groups[1].listed.iter_mut().for_each(|l| l.valve = Some("v2".into()));
    p.valves.push(crate::plan::tests::valve("v2"));
    assert!(!codes(&verdict(&p), Severity::Fix).contains(&"night-too-long"));
    let job = Job::of(&p);
    let known = assess(&job);
    let needs = night_of_peak(&job, &known, &Evennesses::of(&job, &known), 2026).finish;
    assert!(needs > 20, "{needs} min");
    p.watering.rules.closes = p.watering.rules.opens.later(needs - 1);
    let told = verdict(&p);
    let night = told.at(&Subject::Job).find(|f| f.code() == "night-too-long").expect("a minute is missing");
    let Check::NightTooLong { finish, window } = night.check else { panic!("{night:?}") };
    assert_eq!((finish, window), (needs, needs - 1));
}
