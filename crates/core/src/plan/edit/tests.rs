use super::*;
use crate::assess::{assess, assess_after};
use crate::catalogue::{ChartRow, Kind};
use crate::climate::{Climate, MonthWater};
use crate::job::Job;
use crate::plan::tests::{group, valve};
use crate::plan::{
    Clock, ControllerUse, DayRule, EntryKind, HouseRules, JointKind, LegOf, MeterReading, PartLine, Reading,
    ReadingKind, StationWish, Usage, WateringRules, fold,
};
use crate::site::tests::{lawn, rect};
use crate::site::{Point, Underlay};
use crate::units::{Flow, Length, Pressure, UnitSystem, Volume};
use proptest::prelude::*;

/// A change made at random: about a job with few names, so that edits meet.
pub(crate) trait Sample: Sized {
    fn sample() -> BoxedStrategy<Self>;
}

fn id(letter: char) -> impl Strategy<Value = String> {
    (1..4u8).prop_map(move |n| format!("{letter}{n}"))
}
fn psi(range: std::ops::Range<u8>) -> impl Strategy<Value = Pressure> {
    range.prop_map(|psi| Pressure::from_psi(f64::from(psi)))
}
fn place() -> impl Strategy<Value = Option<usize>> {
    prop::option::of(0..4usize)
}
fn put<T: Listed + std::fmt::Debug>(part: impl Strategy<Value = T> + 'static) -> BoxedStrategy<Put<T>> {
    let owner = T::OWNER.map(|_| "drawn".to_owned());
    (part, place()).prop_map(move |(part, at)| Put { owner: owner.clone(), part, at }).boxed()
}
fn remove<T: Listed + std::fmt::Debug>(letter: char) -> BoxedStrategy<Remove<T>> {
    let owner = T::OWNER.map(|_| "drawn".to_owned());
    id(letter).prop_map(move |id| Remove::new(owner.clone(), id)).boxed()
}

impl Sample for SetJob {
    fn sample() -> BoxedStrategy<Self> {
        ("[a-z]{1,8}", "[a-z ]{0,8}", prop::bool::ANY)
            .prop_map(|(name, location, metric)| Self {
                controller_stations: metric.then_some(12),
                name,
                location,
                local_code: "backflow 12 in up".into(),
                units: if metric { UnitSystem::Metric } else { UnitSystem::Us },
            })
            .boxed()
    }
}
impl Sample for SetRules {
    fn sample() -> BoxedStrategy<Self> {
        let rules =
            |margin: u8| HouseRules { flow_margin: f64::from(margin) / 100.0, ..HouseRules::default() };
        (0..50u8).prop_map(move |m| Self { rules: rules(m) }).boxed()
    }
}
impl Sample for Put<Supply> {
    fn sample() -> BoxedStrategy<Self> {
        let supply = |(id, pressure): (String, Pressure)| {
            let mut supply = Supply::new(&id, "Meter");
            supply.readings.push(Reading {
                kind: ReadingKind::Static { pressure },
                when: "2026-05-03 07:10".into(),
                instrument: "gauge".into(),
                tap: "front bib".into(),
            });
            supply
        };
        put((id('s'), psi(30..90)).prop_map(supply))
    }
}
impl Sample for Remove<Supply> {
    fn sample() -> BoxedStrategy<Self> {
        remove('s')
    }
}
impl Sample for PinDesignFlow {
    fn sample() -> BoxedStrategy<Self> {
        let method = prop::option::of(prop_oneof![
            Just(DesignFlowMethod::MeterAndService),
            Just(DesignFlowMethod::TimedBucket)
        ]);
        (id('s'), method).prop_map(|(supply, method)| Self { supply, method }).boxed()
    }
}
impl Sample for Put<HeadGroup> {
    fn sample() -> BoxedStrategy<Self> {
        let listed = |(id, a, b): (String, u32, u32)| group(&id, "spray-12", &[(90, a), (180, b)]);
        let drawn = (1..4u8).prop_map(|n| HeadGroup {
            drawn: (0..n).map(|i| head(&format!("h{i}"), i, None)).collect(),
            ..HeadGroup::new("drawn", "On the site plan", "spray-12")
        });
        put(prop_oneof![(id('g'), 1..9u32, 1..9u32).prop_map(listed), drawn])
    }
}
impl Sample for Remove<HeadGroup> {
    fn sample() -> BoxedStrategy<Self> {
        remove('g')
    }
}
impl Sample for Put<Valve> {
    fn sample() -> BoxedStrategy<Self> {
        put((id('v'), id('s')).prop_map(|(id, supply)| Valve { supply, ..valve(&id) }))
    }
}
impl Sample for Remove<Valve> {
    fn sample() -> BoxedStrategy<Self> {
        remove('v')
    }
}
impl Sample for AssignHeads {
    fn sample() -> BoxedStrategy<Self> {
        let group = prop_oneof![id('g'), Just("drawn".to_owned())];
        (group, 0..8u32, prop::option::of(id('v')))
            .prop_map(|(group, n, valve)| Self {
                heads: (0..n).map(|index| HeadRef { group: group.clone(), index }).collect(),
                valve,
            })
            .boxed()
    }
}
impl Sample for FitRegulation {
    fn sample() -> BoxedStrategy<Self> {
        let regulation = prop_oneof![
            Just(Regulation::None),
            psi(20..60).prop_map(|set| Regulation::Valve { set }),
            psi(20..60).prop_map(|set| Regulation::Body { set }),
        ];
        (id('v'), regulation).prop_map(|(valve, regulation)| Self { valve, regulation }).boxed()
    }
}
impl Sample for Put<SiteObject> {
    fn sample() -> BoxedStrategy<Self> {
        let object = |(id, w): (String, u8)| lawn(&id, rect(0.0, 0.0, f64::from(w), 5.0));
        put((id('a'), 1..20u8).prop_map(object))
    }
}
impl Sample for Remove<SiteObject> {
    fn sample() -> BoxedStrategy<Self> {
        remove('a')
    }
}
impl Sample for SetNorth {
    fn sample() -> BoxedStrategy<Self> {
        (0..360u16).prop_map(|d| Self { degrees: f64::from(d) }).boxed()
    }
}
impl Sample for SetUnderlay {
    fn sample() -> BoxedStrategy<Self> {
        let picture = |width| Underlay {
            picture: "a1b2".into(),
            width,
            height: 600,
            at: Point::default(),
            pixel: Length::from_m(0.05),
            degrees: 0.0,
            strength: 0.5,
        };
        prop::option::of((1..2000u32).prop_map(picture)).prop_map(|underlay| Self { underlay }).boxed()
    }
}
fn head(id: &str, x: u8, valve: Option<String>) -> DrawnHead {
    DrawnHead {
        id: id.to_owned(),
        at: Point::new(f64::from(x), 0.0),
        arc: 180,
        facing: 90.0,
        radius: None,
        valve,
        locked: false,
    }
}
impl Sample for Put<DrawnHead> {
    fn sample() -> BoxedStrategy<Self> {
        let drawn = |(id, x, valve): (String, u8, Option<String>)| head(&id, x, valve);
        put((id('h'), 0..40u8, prop::option::of(id('v'))).prop_map(drawn))
    }
}
impl Sample for Remove<DrawnHead> {
    fn sample() -> BoxedStrategy<Self> {
        remove('h')
    }
}
fn nozzle(id: &str, gpm: f64) -> OwnNozzle {
    OwnNozzle {
        id: id.to_owned(),
        label: format!("Ours {gpm}"),
        kind: Kind::Spray,
        chart: vec![ChartRow {
            pressure: Pressure::from_psi(30.0),
            arc: 360,
            radius: Length::from_ft(12.0),
            flow: Flow::from_gpm(gpm),
        }],
        price: None,
    }
}
impl Sample for Put<OwnNozzle> {
    fn sample() -> BoxedStrategy<Self> {
        put((id('n'), 1..40u8).prop_map(|(id, tenths)| nozzle(&id, f64::from(tenths) / 10.0)))
    }
}
impl Sample for Remove<OwnNozzle> {
    fn sample() -> BoxedStrategy<Self> {
        remove('n')
    }
}
impl Sample for SetFavourites {
    fn sample() -> BoxedStrategy<Self> {
        let some = prop::sample::subsequence(vec!["spray-12", "rotator-20", "n1"], 0..3);
        some.prop_map(|ids| Self { ids: ids.into_iter().map(str::to_owned).collect() }).boxed()
    }
}
fn leg(id: &str, valve: &str, mm: u8) -> PipeLeg {
    let pipe = if mm.is_multiple_of(2) { "class-200 1in" } else { "class-200 3/4in" };
    let of = LegOf::Lateral(valve.to_owned());
    PipeLeg::straight(id, of, valve, "j1", pipe.parse().unwrap())
}
impl Sample for Put<Joint> {
    fn sample() -> BoxedStrategy<Self> {
        let joint =
            |(id, x): (String, u8)| Joint { id, kind: JointKind::Tee, at: Point::new(f64::from(x), 2.0) };
        put((id('j'), 0..9u8).prop_map(joint))
    }
}
impl Sample for Remove<Joint> {
    fn sample() -> BoxedStrategy<Self> {
        remove('j')
    }
}
impl Sample for Put<PipeLeg> {
    fn sample() -> BoxedStrategy<Self> {
        put((id('p'), id('v'), 0..9u8).prop_map(|(id, valve, mm)| leg(&id, &valve, mm)))
    }
}
impl Sample for Remove<PipeLeg> {
    fn sample() -> BoxedStrategy<Self> {
        remove('p')
    }
}
impl Sample for SetClimate {
    fn sample() -> BoxedStrategy<Self> {
        let month = |month: u8| MonthWater {
            month,
            et0: Length::from_in(f64::from(month) / 5.0),
            rain: Length::from_in(0.2),
        };
        let climate = move |months: u8| Climate {
            source: "read on site".into(),
            months: (1..=months).map(month).collect(),
            bare: vec![1, 12],
        };
        prop::option::of((1..=12u8).prop_map(climate)).prop_map(|climate| Self { climate }).boxed()
    }
}
impl Sample for SetWatering {
    fn sample() -> BoxedStrategy<Self> {
        let days = prop_oneof![Just(DayRule::Odd), (1..9u32).prop_map(|days| DayRule::Every { days })];
        (0..23u16, 1..9u32, days)
            .prop_map(|(hour, at_once, days)| Self {
                rules: WateringRules { opens: Clock::at(hour, 30), days, ..WateringRules::default() },
                controller: ControllerUse { at_once, ..ControllerUse::default() },
            })
            .boxed()
    }
}
impl Sample for SetUsage {
    fn sample() -> BoxedStrategy<Self> {
        let reading = |(day, gallons): (u8, u8)| MeterReading {
            on: format!("2026-07-{day:02}").parse().unwrap(),
            showed: Volume::from_gal(f64::from(gallons)),
        };
        (1..29u8, 0..200u8)
            .prop_map(move |r| Self { usage: Usage { readings: vec![reading(r)], ..Usage::default() } })
            .boxed()
    }
}
impl Sample for Put<StationWish> {
    fn sample() -> BoxedStrategy<Self> {
        let wish = |(valve, regime): (String, Option<u8>)| StationWish { regime, ..StationWish::new(&valve) };
        put((id('v'), prop::option::of(1..4u8)).prop_map(wish))
    }
}
impl Sample for Put<PartLine> {
    fn sample() -> BoxedStrategy<Self> {
        let line = |(id, part, quantity): (String, Option<String>, u16)| PartLine {
            id,
            part,
            text: "by hand".into(),
            quantity: f64::from(quantity),
            unit: "each".into(),
        };
        let part = proptest::option::of("(pipe|tee)-[1-3]");
        put(("l[1-4]", part, 0..900u16).prop_map(line).boxed())
    }
}
impl Sample for Remove<PartLine> {
    fn sample() -> BoxedStrategy<Self> {
        "l[1-4]".prop_map(|id| Self::new(None, id)).boxed()
    }
}
impl Sample for Remove<StationWish> {
    fn sample() -> BoxedStrategy<Self> {
        remove('v')
    }
}
impl Sample for SizeLegs {
    fn sample() -> BoxedStrategy<Self> {
        let size = (id('p'), Just("class-200 1-1/4in".parse().unwrap()));
        prop::collection::vec(size, 1..4).prop_map(|sizes| Self { sizes }).boxed()
    }
}
impl Sample for Batch {
    fn sample() -> BoxedStrategy<Self> {
        // One of each that others build on, in an order in which they can be done.
        (<Put<Valve>>::sample(), <Put<HeadGroup>>::sample(), AssignHeads::sample())
            .prop_map(|(v, g, a)| Self { edits: vec![v.into(), g.into(), a.into()] })
            .boxed()
    }
}

fn start() -> Job {
    let mut plan = Plan::new("Test", UnitSystem::Us);
    plan.groups.push(HeadGroup {
        drawn: vec![head("h1", 1, None), head("h2", 3, None)],
        ..HeadGroup::new("drawn", "On the site plan", "spray-12")
    });
    Job::new(plan)
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(300))]
    #[test]
    fn undoing_everything_gives_the_start_and_every_head_is_on_one_valve(
        edits in prop::collection::vec(any_edit(), 0..60),
    ) {
        let start = start();
        let (mut job, mut log) = (start.clone(), Vec::new());
        for edit in edits {
            // Some edits name what is not there: refused, and nothing changes.
            if let Ok((next, inverse)) = job.apply(&edit) {
                log.push((edit, inverse));
                job = next;
            }
        }
        let folded = fold(start.plan().clone(), log.iter().map(|(e, _)| e)).unwrap();
        prop_assert_eq!(&folded, job.plan());
        for g in &job.groups {
            let on_valves: usize = job.valves.iter().map(|v| g.heads_on(Some(&v.id)).len()).sum();
            prop_assert_eq!(on_valves + g.heads_on(None).len(), g.count() as usize);
        }
        let json = serde_json::to_string(job.plan()).unwrap();
        prop_assert_eq!(&serde_json::from_str::<Plan>(&json).unwrap(), job.plan());
        for (_, inverse) in log.iter().rev() {
            job = job.apply(inverse).unwrap().0;
        }
        prop_assert_eq!(job, start);
    }

    #[test]
    fn figures_kept_from_before_are_those_of_a_fresh_assessment(
        edits in prop::collection::vec(any_edit(), 1..25),
    ) {
        let mut job = start();
        let mut known = assess(&job);
        for edit in edits {
            let Ok((next, _)) = job.apply(&edit) else { continue };
            let kept = assess_after(&next, Some(&known));
            prop_assert_eq!(&kept, &assess(&next), "after {:?}", edit);
            (job, known) = (next, kept);
        }
    }

    #[test]
    fn an_edit_is_read_back_from_its_file_as_it_was_written(edit in any_edit()) {
        let json = serde_json::to_string(&edit).unwrap();
        prop_assert_eq!(&serde_json::from_str::<Edit>(&json).unwrap(), &edit);
        let kind = format!("\"edit\":\"{}\"", edit.kind());
        prop_assert!(json.contains(&kind));
        prop_assert!(!edit.describe().is_empty());
    }

    #[test]
    fn an_edit_touches_what_its_inverse_touches(edit in any_edit()) {
        if let Ok((_, inverse)) = start().apply(&edit) {
            for subject in inverse.subjects() {
                // A valve lets go of its heads, so its return touches their groups too.
                let met = edit.subjects().iter().any(|s| s.meets(&subject));
                prop_assert!(met || matches!(edit, Edit::RemoveValve(_) | Edit::RemoveSupply(_)), "{subject:?} \
                    of {edit:?}");
            }
        }
    }
}

/// A log as an earlier version wrote it, with one of every kind of edit: it opens for ever.
const GOLDEN: &str = include_str!("golden.json");

#[test]
fn the_golden_log_has_every_kind_of_edit_and_gives_the_plan_that_it_gave() {
    let log: Vec<Edit> = serde_json::from_str(GOLDEN).unwrap();
    let have: Vec<&str> = log.iter().map(Edit::kind).collect();
    for kind in Edit::KINDS {
        assert!(have.contains(kind), "the golden log lacks {kind}");
    }
    let start = Plan::new("Golden", UnitSystem::Us);
    let (mut job, mut back) = (Job::new(start.clone()), Vec::new());
    for (i, edit) in log.iter().enumerate() {
        let (next, inverse) = job.apply(edit).unwrap_or_else(|e| panic!("no. {i}, {}: {e}", edit.kind()));
        job = next;
        back.push(inverse);
    }
    insta::assert_json_snapshot!("golden_plan", job.plan());
    for inverse in back.iter().rev() {
        job = job.apply(inverse).unwrap().0;
    }
    assert_eq!(job.plan(), &start);
}

#[test]
fn a_nozzle_that_comes_back_has_its_place_again() {
    let mut plan = Plan::new("Test", UnitSystem::Us);
    plan.nozzles = ["n1", "n2", "n3"].map(|id| nozzle(id, 2.0)).into();
    let job = Job::new(plan);
    let (without, back) = job.apply(&Edit::remove::<OwnNozzle>("n2")).unwrap();
    assert!(without.catalogue().nozzle("n2").is_none() && job.catalogue().nozzle("n2").is_some());
    assert_eq!(without.apply(&back).unwrap().0, job);
}

#[test]
fn what_is_not_known_in_an_edit_is_refused_by_name() {
    let said = |json: &str| serde_json::from_str::<Edit>(json).unwrap_err().to_string();
    let supply = r#"{"id": "s1", "name": "Meter"}"#;
    let odd = format!(r#"{{"edit": "put-supply", "supply": {supply}, "colour": 1}}"#);
    assert!(said(&odd).contains("unknown key ‘colour’"), "{}", said(&odd));
    assert!(said(r#"{"edit": "put-head", "head": {"id": "h1", "at": [0, 0], "arc": 90}}"#).contains("group"));
    assert!(said(r#"{"edit": "remove-valve"}"#).contains("missing field `id`"));
    assert!(said(r#"{"edit": "paint-valve"}"#).contains("paint-valve"));
}

#[test]
fn a_batch_is_done_whole_or_not_at_all() {
    let job = start();
    let edit = Edit::batch(vec![Edit::put(valve("v1")), Edit::remove::<Valve>("v9")]);
    let error = job.apply(&edit).unwrap_err();
    assert_eq!(error, EditError::Missing { what: "valve", id: "v9".into() });
    assert!(job.valves.is_empty());
}

#[test]
fn the_kinds_of_log_entries_keep_their_names() {
    let words = [EntryKind::Do, EntryKind::Undo, EntryKind::Redo].map(|k| serde_json::to_string(&k).unwrap());
    assert_eq!(words, ["\"do\"", "\"undo\"", "\"redo\""]);
}

#[test]
fn subjects_meet_just_where_one_leaves_a_mark_that_the_other_looks_for() {
    let head = |h: &str| Subject::Head("g1".into(), h.into());
    let group = |g: &str| Subject::Group(g.into());
    let all = [head("h1"), head("h2"), group("g1"), group("g2"), Subject::Valve("g1".into()), Subject::North];
    for a in &all {
        for b in &all {
            let met = a.marks().iter().any(|m| b.looks_for().contains(m));
            assert_eq!(met, a.meets(b), "{a:?} {b:?}");
        }
    }
}
