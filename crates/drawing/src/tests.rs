use crate::svg::{escape, nice_step};
use crate::{FlowBar, WalkDrawing, flow_bar, pressure_glyph, pressure_walk};
use fenlo_core::units::{Flow, Pressure, UnitSystem};
use fenlo_core::zone::WalkStep;

fn steps(costs: &[(&str, f64)]) -> Vec<WalkStep> {
    let mut left = Pressure::from_psi(62.0);
    costs
        .iter()
        .map(|(label, psi)| {
            left = left - Pressure::from_psi(*psi);
            WalkStep { label: (*label).into(), cost: Pressure::from_psi(*psi), left, note: String::new() }
        })
        .collect()
}

fn band() -> (Pressure, Pressure, Pressure) {
    (Pressure::from_psi(30.0), Pressure::from_psi(20.0), Pressure::from_psi(40.0))
}

#[test]
fn the_walk_is_drawn_as_it_was() {
    let walk = steps(&[("Static", 0.0), ("Meter 3/4 in", 2.9), ("Regulator", 18.0), ("First leg", 6.0)]);
    let after = steps(&[("Static", 0.0), ("Meter 3/4 in", 2.9), ("First leg", 3.0)]);
    insta::assert_snapshot!(pressure_walk(WalkDrawing { steps: &walk, with_remedy: Some(&after), band: band(), kind: "Spray", units: UnitSystem::Us }));
}

#[test]
fn the_glyphs_are_drawn_as_they_were() {
    insta::assert_snapshot!(
        [
            flow_bar(FlowBar { flow: Flow::from_gpm(13.1), design: Some(Flow::from_gpm(14.2)), number: 2 }, UnitSystem::Us),
            pressure_glyph(Pressure::from_psi(18.0), Pressure::from_psi(33.0), band(), UnitSystem::Us),
        ]
        .join("\n")
    );
}

#[test]
fn a_head_outside_its_band_is_marked_and_one_inside_is_not() {
    let good = pressure_glyph(Pressure::from_psi(25.0), Pressure::from_psi(33.0), band(), UnitSystem::Us);
    let bad = pressure_glyph(Pressure::from_psi(15.0), Pressure::from_psi(33.0), band(), UnitSystem::Us);
    assert!(!good.contains(crate::colour::STOP) && bad.contains(crate::colour::STOP));
}

#[test]
fn names_cannot_break_out_of_the_drawing() {
    let walk = steps(&[("<script>alert(1)</script>", 0.0), ("\"onload=\u{7}", 1.0)]);
    let svg = pressure_walk(WalkDrawing { steps: &walk, with_remedy: None, band: band(), kind: "<b>", units: UnitSystem::Us });
    assert!(!svg.contains("<script") && !svg.contains("<b>") && !svg.contains('\u{7}'));
    assert_eq!(escape("a<b>&\"'"), "a&lt;b&gt;&amp;&quot;&#39;");
}

#[test]
fn axes_have_round_steps() {
    assert_eq!(nice_step(62.0, 7.0), 10.0);
    assert_eq!(nice_step(430.0, 7.0), 100.0);
    assert_eq!(nice_step(9.0, 7.0), 2.0);
}

#[test]
fn drawings_of_extremes_hold_only_finite_numbers() {
    let walk = steps(&[("Static", 0.0), ("Height", 500.0)]);
    let svg = pressure_walk(WalkDrawing { steps: &walk, with_remedy: None, band: band(), kind: "Spray", units: UnitSystem::Metric });
    let bar = flow_bar(FlowBar { flow: Flow::ZERO, design: Some(Flow::ZERO), number: 0 }, UnitSystem::Us);
    assert!(!(svg + &bar).contains("NaN"));
}

#[test]
fn the_supply_curve_is_drawn_as_it_was() {
    use fenlo_core::plan::{Reading, ReadingKind, Supply};
    let read = |kind| Reading { kind, when: String::new(), instrument: String::new(), place: String::new() };
    let mut supply = Supply::new("s1", "Meter");
    supply.readings =
        vec![read(ReadingKind::Static { pressure: Pressure::from_psi(62.0) }), read(ReadingKind::Dynamic { flow: Flow::from_gpm(10.0), pressure: Pressure::from_psi(54.0) })];
    let curve = fenlo_core::water::supply_curve(&supply, UnitSystem::Us).expect("falls with flow");
    let connection: Vec<(Flow, Pressure)> = (0..5).map(|i| Flow::from_gpm(f64::from(i) * 4.0)).map(|q| (q, curve.pressure_at(q) - Pressure::from_psi(4.0))).collect();
    insta::assert_snapshot!(crate::supply_curve(crate::CurveDrawing { curve: &curve, connection: &connection, design: Some(Flow::from_gpm(14.2)), units: UnitSystem::Us }));
}
