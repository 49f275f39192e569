use super::*;
use crate::assembly::Start;
use crate::plan::Regulation;
use crate::units::{Flow, Length};

fn plain(id: &str) -> Valve {
    Valve { filter: None, ..crate::plan::tests::valve(id) }
}
fn drip(id: &str) -> Valve {
    Valve { filter: Some("filter-3/4in".into()), ..plain(id) }
}
fn size(valves: usize, filters: usize) -> Option<BoxSize> {
    Contents { valves, filters }.size()
}

#[test]
fn boxes_by_what_stands_in_them() {
    assert_eq!(size(1, 0), Some(BoxSize::Round6));
    assert_eq!(size(1, 1), Some(BoxSize::Round10));
    assert_eq!(size(2, 0), Some(BoxSize::Standard));
    assert_eq!(size(3, 0), Some(BoxSize::Standard));
    // A drip kit beside another valve.
    assert_eq!(size(2, 1), Some(BoxSize::Jumbo));
    assert_eq!(size(3, 2), Some(BoxSize::Jumbo));
    assert_eq!(size(4, 1), Some(BoxSize::Jumbo));
    assert_eq!(size(5, 0), Some(BoxSize::Jumbo));
    for (valves, filters) in [(6, 0), (5, 1), (4, 2), (3, 3)] {
        assert_eq!(size(valves, filters), None, "{valves} valves, {filters} filters");
    }
}

#[test]
fn a_filter_at_the_bed_takes_no_room_in_the_box() {
    let far = Start::FarBed.fit(&plain("far"), Flow::from_gpm(3.0), Length::ZERO);
    let near = Start::Box.fit(&plain("near"), Flow::from_gpm(3.0), Length::ZERO);
    assert!(far.filter.is_some() && near.filter.is_some());
    assert!(!matches!(far.regulation, Regulation::None));
    assert_eq!(Contents::of([&far]), Contents { valves: 1, filters: 0 });
    assert_eq!(Contents::of([&near]), Contents { valves: 1, filters: 1 });
    let tap = Start::HoseBib.fit(&plain("tap"), Flow::from_gpm(3.0), Length::ZERO);
    assert_eq!(Contents::of([&tap, &near]), Contents { valves: 1, filters: 1 });
}

#[test]
fn valves_are_shared_out_evenly_over_boxes_that_take_them() {
    let counts = |valves: &[Valve]| -> Vec<usize> {
        let all: Vec<&Valve> = valves.iter().collect();
        shared_out(&all).iter().map(Vec::len).collect()
    };
    let six: Vec<Valve> = (0..6).map(|i| plain(&format!("v{i}"))).collect();
    assert_eq!(counts(&six), [3, 3]);
    assert_eq!(counts(&six[..5]), [5]);
    // Four valves with two kits want six places.
    let mixed = [plain("a"), plain("b"), drip("c"), drip("d")];
    assert_eq!(counts(&mixed), [3, 1]);
    let kits = [drip("a"), drip("b"), drip("c")];
    assert_eq!(counts(&kits), [2, 1]);
    assert!(counts(&[]).is_empty());
}
