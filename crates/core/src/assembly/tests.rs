//! Usual assemblies have nothing wrong with them, and every forbidden order is found where it stands.

use super::*;
use crate::catalogue::{Catalogue, PartEnd, Seal};
use crate::plan::{AssemblyPart, AssemblyPlace, PartIs, Valve};
use crate::units::{Flow, Length, Pressure};

fn around(flow: f64) -> Around {
    Around {
        at_rest: Pressure::from_psi(72.0),
        flow: Flow::from_gpm(flow),
        top: Some(Length::from_in(4.0)),
        room: Pressure::from_psi(10.0),
    }
}
fn begun(start: Start, flow: f64) -> Valve {
    start.fit(&Valve::new("v1", "Beds", "s1"), Flow::from_gpm(flow), Length::from_in(4.0))
}
fn found(valve: &Valve, around: &Around) -> Vec<Fault> {
    let train = Train::of(Catalogue::builtin(), valve);
    faults(&train, &valve.assembly, around)
}
fn said(valve: &Valve) -> Vec<(usize, AssemblyFault)> {
    found(valve, &around(2.0)).into_iter().map(|f| (f.at, f.fault)).collect()
}
fn part(id: &str) -> AssemblyPart {
    AssemblyPart::new(PartIs::Part(id.into()))
}
fn end(text: &str) -> PartEnd {
    text.parse().unwrap()
}

#[test]
fn each_start_passes_its_own_checks_small_and_large() {
    for start in Start::ALL {
        for flow in [0.4, 2.0, 7.5, 12.0] {
            // A hose's parts end at 8 gpm, and at 72 psi a tank's outlet would not hold.
            if flow > 8.0
                && matches!(
                    start,
                    Start::HoseBib | Start::AntiSiphon | Start::Riser | Start::Tank | Start::RaisedBed
                )
            {
                continue;
            }
            let mut here = around(flow);
            if start == Start::Tank {
                here.at_rest = Pressure::from_psi(12.0);
            }
            let valve = begun(start, flow);
            let mut all = found(&valve, &here);
            // A tank's pump raises what stands behind it; its regulator's room is the pump's affair.
            all.retain(|f| start != Start::Tank || !matches!(f.fault, AssemblyFault::NoPressureRoom { .. }));
            assert_eq!(all, Vec::new(), "{start:?} at {flow} gpm");
        }
    }
}

#[test]
fn what_is_not_listed_stands_where_it_usually_does() {
    let mut valve = begun(Start::Box, 2.0);
    let roles = |valve: &Valve| -> Vec<PartIs> {
        Train::of(Catalogue::builtin(), valve).members.into_iter().map(|m| m.is).collect()
    };
    let own = [PartIs::Valve, PartIs::Filter, PartIs::Regulator];
    assert_eq!(roles(&valve)[..3], own);
    valve.assembly.parts.retain(|p| matches!(p.is, PartIs::Part(_)));
    assert_eq!(roles(&valve)[..3], own);
    valve.assembly.parts.clear();
    assert_eq!(roles(&valve), own);
}

#[test]
fn a_filter_behind_the_regulator_and_a_valve_behind_a_breaker_are_found() {
    let mut valve = begun(Start::Box, 2.0);
    valve.assembly.parts.swap(1, 2);
    assert!(said(&valve).contains(&(2, AssemblyFault::FilterBehindRegulator)));
    // The breaker before the timer: the timer then shuts behind it.
    let mut hose = begun(Start::HoseBib, 2.0);
    hose.assembly.parts.swap(3, 4);
    assert_eq!(said(&hose), [(4, AssemblyFault::ValveAfterBreaker)]);
    hose.assembly.parts.remove(3);
    assert_eq!(said(&hose), [(3, AssemblyFault::NoBreaker)]);
    // A ball valve behind an anti-siphon valve.
    let mut anti = begun(Start::AntiSiphon, 2.0);
    anti.assembly.parts.insert(1, part("nipple"));
    anti.assembly.parts.insert(2, part("ball-valve-3/4"));
    assert_eq!(said(&anti), [(2, AssemblyFault::ValveAfterBreaker)]);
}

#[test]
fn a_breaker_too_low_is_told_how_high_it_must_stand() {
    let mut anti = begun(Start::AntiSiphon, 2.0);
    // The highest emitter stands 4 in over the valve: 10 in.
    assert_eq!(anti.assembly.height, Some(Length::from_in(10.0)));
    anti.assembly.height = Some(Length::from_in(8.0));
    let [(0, AssemblyFault::BreakerLow { wanted, .. })] = said(&anti)[..] else {
        panic!("{:?}", said(&anti))
    };
    assert!((wanted.inches() - 10.0).abs() < 1e-9);
}

#[test]
fn arrows_ends_and_diameters_are_checked() {
    let mut valve = begun(Start::Box, 2.0);
    valve.assembly.parts[2].reversed = true;
    // It holds nothing back then, and the fitting behind it bears 50 psi.
    assert!(matches!(
        said(&valve)[..],
        [(2, AssemblyFault::Reversed), (3, AssemblyFault::OverRating { .. })]
    ));
    let mut valve = begun(Start::Box, 2.0);
    valve.assembly.parts[3] = part("hose-swivel");
    assert!(matches!(&said(&valve)[..], [(3, AssemblyFault::EndsApart { outlet, inlet })]
        if outlet.to_string() == "thread 3/4in f" && inlet.to_string() == "hose f"));
    let mut lawn = begun(Start::SubSurface, 2.0);
    lawn.assembly.parts[3] = part("tube-swivel-poly");
    assert!(said(&lawn).iter().all(|s| matches!(s.1, AssemblyFault::Diameters { .. })));
    assert_eq!(said(&lawn).len(), 1);
}

#[test]
fn tape_stays_off_washers_and_cement_off_tube() {
    let mut hose = begun(Start::HoseBib, 2.0);
    hose.assembly.parts[5].sealed = Some(Seal::Tape);
    assert_eq!(said(&hose), [(5, AssemblyFault::TapeOnWasher)]);
    let mut valve = begun(Start::Box, 2.0);
    valve.assembly.parts[3].sealed = Some(Seal::Cement);
    assert_eq!(said(&valve), [(3, AssemblyFault::Glued)]);
    valve.assembly.parts[3].sealed = Some(Seal::Nothing);
    assert_eq!(said(&valve), [(3, AssemblyFault::NoTape)]);
}

#[test]
fn room_support_rating_and_bands_are_checked() {
    let mut hose = begun(Start::HoseBib, 2.0);
    hose.assembly.supported = false;
    assert!(matches!(said(&hose)[..], [(0, AssemblyFault::NoSupport { parts: 7, .. })]));
    let mut valve = begun(Start::Box, 2.0);
    // 4.5 + 6 + 4.5 + 2.5 in.
    valve.assembly.room = Some(Length::from_in(17.0));
    assert!(matches!(said(&valve)[..], [(3, AssemblyFault::TooLong { .. })]));
    valve.assembly.room = Some(Length::from_in(20.0));
    assert!(matches!(said(&valve)[..], [(1, AssemblyFault::NoRoomToOpen { .. })]));
    valve.assembly.room = Some(Length::from_in(23.0));
    assert_eq!(said(&valve), []);
    let over: Vec<usize> = found(&valve, &Around { at_rest: Pressure::from_psi(130.0), ..around(2.0) })
        .into_iter()
        .map(|f| f.at)
        .collect();
    // The filter bears 120 psi; behind the regulator all is well.
    assert_eq!(over, [1]);
    let flows = |gpm| found(&valve, &around(gpm)).len();
    assert_eq!((flows(0.05), flows(2.0), flows(9.0)), (1, 0, 2));
    // 30 psi before a preset of 25.
    let low = found(&valve, &Around { at_rest: Pressure::from_psi(30.0), ..around(2.0) });
    assert!(matches!(low[..], [Fault { at: 2, fault: AssemblyFault::NoPressureRoom { .. } }]));
}

#[test]
fn every_stage_of_a_cascade_has_its_own_room() {
    // 92 in, 55 after the first, 25 after the second.
    let mut valve = begun(Start::Cascade, 2.0);
    valve.assembly.parts[2].set = Some(Pressure::from_psi(55.0));
    let here = Around { at_rest: Pressure::from_psi(92.0), ..around(2.0) };
    assert_eq!(found(&valve, &here), []);
    valve.assembly.parts[2].set = Some(Pressure::from_psi(30.0));
    assert!(matches!(
        found(&valve, &here)[..],
        [Fault { at: 4, fault: AssemblyFault::NoPressureRoom { .. } }]
    ));
}

#[test]
fn the_shortest_chain_of_fittings_joins_two_ends() {
    let chain = |a: &str, b: &str| -> Vec<String> {
        let found = chain_between(Catalogue::builtin(), &end(a), &end(b)).unwrap();
        found.into_iter().filter_map(|j| j.part).collect()
    };
    assert_eq!(chain("thread 3/4in f", "thread 3/4in m"), Vec::<String>::new());
    assert_eq!(chain("thread 3/4in f", "thread 3/4in f"), ["nipple"]);
    assert_eq!(chain("thread 3/4in f", "tube 16mm"), ["tube-swivel"]);
    assert_eq!(chain("hose m", "tube 0.70in"), ["hose-swivel-poly"]);
    assert_eq!(chain("hose m", "thread 3/4in f"), ["hose-to-thread"]);
    assert_eq!(chain("tube 16mm", "tube 0.70in"), ["tube-joint"]);
    assert_eq!(chain("thread 1in f", "tube 16mm"), ["bush-1x3/4", "tube-swivel"]);
    assert!(chain_between(Catalogue::builtin(), &end("tube 16mm"), &end("tube 99mm")).is_none());
    let seals: Vec<Seal> = chain_between(Catalogue::builtin(), &end("hose m"), &end("thread 3/4in f"))
        .unwrap()
        .into_iter()
        .map(|j| j.seal)
        .collect();
    assert_eq!(seals, [Seal::Washer, Seal::Tape]);
    assert!("thread 3/4in x".parse::<PartEnd>().is_err());
    assert_eq!(begun(Start::HoseBib, 1.0).assembly.stands, AssemblyPlace::Tap);
}

proptest::proptest! {
    #![proptest_config(proptest::test_runner::Config {
        cases: 200,
        rng_seed: proptest::test_runner::RngSeed::Fixed(20_261_127),
        ..Default::default()
    })]

    /// Whatever is put together in whatever order: every part is there, every fault stands at one, a joint
    /// that fits is none and one that does not is one, and the zone is still laid.
    #[test]
    fn whatever_is_put_together(
        picks in proptest::collection::vec((0usize..200, proptest::bool::ANY, 0usize..5), 1..14),
        tap in proptest::bool::ANY,
        psi in 5.0..160.0f64,
        gpm in 0.0..30.0f64,
    ) {
        let catalogue = Catalogue::builtin();
        let mut valve = begun(Start::Box, 2.0);
        valve.assembly.stands = if tap { AssemblyPlace::Tap } else { AssemblyPlace::Box };
        valve.assembly.parts = picks
            .iter()
            .map(|(i, reversed, seal)| AssemblyPart {
                reversed: *reversed,
                sealed: [None, Some(Seal::Tape), Some(Seal::Washer), Some(Seal::Nothing), Some(Seal::Cement)][*seal],
                ..part(&catalogue.parts[i % catalogue.parts.len()].id)
            })
            .collect();
        let train = Train::of(catalogue, &valve);
        proptest::prop_assert_eq!(train.members.len(), picks.len() + 3, "its own three are put in");
        let here = Around { at_rest: Pressure::from_psi(psi), ..around(gpm) };
        let all = faults(&train, &valve.assembly, &here);
        proptest::prop_assert!(all.iter().all(|f| f.at < train.members.len()));
        for (i, pair) in train.members.windows(2).enumerate() {
            if pair[1].role == crate::catalogue::PartRole::End {
                continue;
            }
            let (Some(a), Some(b)) = (&pair[0].outlet, &pair[1].inlet) else { continue };
            let told = all.iter().any(|f| {
                f.at == i + 1 && matches!(f.fault, AssemblyFault::EndsApart { .. } | AssemblyFault::Diameters { .. })
            });
            proptest::prop_assert_eq!(told, a.seal_to(b).is_none(), "{} to {}", a, b);
        }
    }
}
