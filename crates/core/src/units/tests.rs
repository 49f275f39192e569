use super::*;
use proptest::prelude::*;

fn close(a: f64, b: f64) {
    assert!((a - b).abs() <= 1e-9 * b.abs().max(1.0), "{a} is not {b}");
}

#[test]
fn quantities_are_read_as_installers_write_them() {
    close("62 psi".parse::<Pressure>().unwrap().kpa(), 62.0 * 6.894_757_293_168);
    close("4.3 bar".parse::<Pressure>().unwrap().kpa(), 430.0);
    close("4,3bar".parse::<Pressure>().unwrap().kpa(), 430.0);
    close("1 1/2 in".parse::<Length>().unwrap().mm(), 38.1);
    close("1-1/2in".parse::<Length>().unwrap().mm(), 38.1);
    close("3/4in".parse::<Length>().unwrap().mm(), 19.05);
    close("7'6\"".parse::<Length>().unwrap().ft(), 7.5);
    close("7 ft 6 in".parse::<Length>().unwrap().ft(), 7.5);
    close("7'6".parse::<Length>().unwrap().ft(), 7.5);
    close("-2 ft".parse::<Length>().unwrap().ft(), -2.0);
    close("0.9 gph".parse::<Flow>().unwrap().gpm(), 0.015);
    close("3 m3/h".parse::<Flow>().unwrap().lpm(), 50.0);
    close("22 s".parse::<Minutes>().unwrap().minutes(), 22.0 / 60.0);
}

#[test]
fn a_field_gives_a_bare_number_the_jobs_unit() {
    close(Pressure::typed("62", UnitSystem::Us).unwrap().psi(), 62.0);
    close(Pressure::typed("430", UnitSystem::Metric).unwrap().kpa(), 430.0);
    close(Pressure::typed("4.3 bar", UnitSystem::Us).unwrap().kpa(), 430.0);
}

#[test]
fn refusals_say_what_is_wrong_and_what_is_expected() {
    let said = |t: &str| t.parse::<Pressure>().unwrap_err().to_string();
    insta::assert_snapshot!(
        ["", "abc", "62", "62 gpm", "1/0 psi", "1e999 psi", "∞ psi", "9".repeat(60).as_str()].map(said).join("\n"),
        @r"
    enter pressure with its unit, such as 62 psi
    ‘abc’ is not a valid pressure. Enter a number with its unit, such as 62 psi
    ‘62’ needs a unit: psi, kPa, bar. Example: 62 psi
    ‘gpm’ is not a unit of pressure. Use psi, kPa, bar
    ‘1/0 psi’ is not a valid pressure. Enter a number with its unit, such as 62 psi
    ‘e’ is not a unit of pressure. Use psi, kPa, bar
    ‘∞ psi’ is not a valid pressure. Enter a number with its unit, such as 62 psi
    ‘9999999999999999999999999999999999999999’ is not a valid pressure. Enter a number with its unit, such as 62 psi
    "
    );
}

#[test]
fn factors_are_exact() {
    close(Pressure::of_height(Length::from_ft(1.0)).psi(), 0.433_527_504_001_361_7);
    close(Flow::from_gpm(60.0) / "3600 gph".parse::<Flow>().unwrap(), 1.0);
    // 0.4085 Q / d2 is the trade's form of the velocity in a round pipe.
    let v = Speed::in_pipe(Flow::from_gpm(18.0), Length::from_in(1.025));
    assert!((v.fps() - 0.4085 * 18.0 / (1.025 * 1.025)).abs() < 0.002);
}

#[test]
fn people_see_a_sensible_number_of_digits() {
    assert_eq!(Pressure::from_psi(41.27).show(UnitSystem::Us), "41.3 psi");
    assert_eq!(Pressure::from_psi(-0.01).show(UnitSystem::Us), "0 psi");
    assert_eq!(Flow::from_gpm(0.481).show(UnitSystem::Us), "0.48 gpm");
    assert_eq!(Length::from_ft(12.0).show(UnitSystem::Us), "12 ft");
    assert_eq!(Pressure::from_kpa(275.79).show(UnitSystem::Metric), "276 kPa");
}

#[test]
fn a_form_saved_again_changes_nothing() {
    for system in [UnitSystem::Us, UnitSystem::Metric] {
        let p = Pressure::typed("57.53", system).unwrap();
        close(Pressure::typed(&p.field(system), system).unwrap().kpa(), p.kpa());
        let l = Length::typed("12.375", system).unwrap();
        close(Length::typed(&l.field(system), system).unwrap().m(), l.m());
        let t = "19.5 s".parse::<Minutes>().unwrap();
        close(Minutes::typed(&t.field(system), system).unwrap().minutes(), t.minutes());
    }
}

proptest! {
    #[test]
    fn what_is_written_to_a_file_reads_back_to_the_same_bits(
        kpa in -1e6..1e6f64,
        psi in -999i32..999,
        lpm in 0.0..1e5f64,
    ) {
        for p in [Pressure::from_kpa(kpa), Pressure::from_psi(f64::from(psi))] {
            let text = serde_json::to_string(&p).unwrap();
            prop_assert_eq!(serde_json::from_str::<Pressure>(&text).unwrap(), p, "{}", text);
        }
        let f = Flow::from_lpm(lpm);
        prop_assert_eq!(serde_json::from_str::<Flow>(&serde_json::to_string(&f).unwrap()).unwrap(), f);
    }

    #[test]
    fn no_text_makes_the_reader_panic(text in ".{0,50}") {
        if let Ok(p) = text.parse::<Pressure>() { prop_assert!(p.kpa().is_finite()); }
        if let Ok(l) = text.parse::<Length>() { prop_assert!(l.m().is_finite()); }
    }
}

#[test]
fn a_tape_is_read_to_the_quarter_inch_and_areas_are_grouped() {
    let us = |inches: f64| Length::from_in(inches).show_tape(UnitSystem::Us);
    assert_eq!(
        [us(150.5), us(144.0), us(6.0), us(0.25), us(0.0), us(11.9), us(-30.0)],
        ["12'6½\"", "12'", "6\"", "¼\"", "0\"", "1'", "−2'6\""]
    );
    assert_eq!(Length::from_m(3.807).show_tape(UnitSystem::Metric), "3.81 m");
    let area = |m2: f64, u| Surface::from_m2(m2).show(u);
    assert_eq!(area(1540.0 * M_PER_FT * M_PER_FT, UnitSystem::Us), "1,540 ft²");
    assert_eq!(area(1_234_567.2, UnitSystem::Metric), "1,234,567 m²");
    assert_eq!(area(3.25, UnitSystem::Metric), "3.2 m²");
    assert_eq!(area(999.6, UnitSystem::Metric), "1,000 m²");
}

#[test]
fn units_with_a_digit_are_taken_whole() {
    let area = |t: &str| t.parse::<Surface>().map(Surface::m2);
    assert!((area("900 ft2").unwrap() - 900.0 * M_PER_FT * M_PER_FT).abs() < 1e-9);
    assert_eq!(area("84 m2"), Ok(84.0));
    assert!((area("1,5 m²").unwrap() - 1.5).abs() < 1e-12);
    assert!((Surface::typed("12", UnitSystem::Metric).unwrap().m2() - 12.0).abs() < 1e-12);
    assert!(area("900 ft").is_err() && area("900 ft22").is_err());
    assert!(("3 m3/h".parse::<Flow>().unwrap().lpm() - 50.0).abs() < 1e-9);
    assert!(("62 lb/in2".parse::<Pressure>().unwrap().psi() - 62.0).abs() < 1e-9);
    assert!(("7'6".parse::<Length>().unwrap().ft() - 7.5).abs() < 1e-9);
}

#[test]
fn a_bare_pressure_in_the_wrong_unit_is_asked_about() {
    let said = |text: &str, u: UnitSystem| Pressure::typed(text, u).map_err(|e| e.to_string());
    let asked = |text: &str, u: UnitSystem, words: &str| {
        let said = said(text, u).expect_err(text);
        assert!(said.contains(words), "{text}: {said}");
    };
    asked("4.3", UnitSystem::Metric, "Enter 4.3 bar, or 4.3 kPa to confirm");
    asked("4,3", UnitSystem::Metric, "4,3 bar");
    asked("0.4", UnitSystem::Us, "Enter 0.4 bar, or 0.4 psi");
    asked("62", UnitSystem::MetricBar, "Enter 62 psi or 62 kPa, or 62 bar");
    // With a unit it is what it says; what an installer reads off a gauge is taken as it stands.
    let takes = [
        ("4.3 kPa", UnitSystem::Metric, 4.3),
        ("430", UnitSystem::Metric, 430.0),
        ("35", UnitSystem::Metric, 35.0),
        ("4.3", UnitSystem::MetricBar, 430.0),
        ("0.35", UnitSystem::MetricBar, 35.0),
        ("16", UnitSystem::Metric, 16.0),
        ("1", UnitSystem::Us, 6.894_757),
        ("0.4 psi", UnitSystem::Us, 2.757_903),
        ("0", UnitSystem::Us, 0.0),
        ("0", UnitSystem::Metric, 0.0),
    ];
    for (text, u, kpa) in takes {
        let got = said(text, u).unwrap_or_else(|e| panic!("{text}: {e}")).kpa();
        assert!((got - kpa).abs() < 1e-4, "{text}: {got}");
    }
}

#[test]
fn a_flow_at_a_limit_reaches_it_whatever_the_last_bits_say() {
    let least = Flow::from_gpm(0.1);
    // Twelve emitters of 0.5 gph, as a solver adds them up.
    assert!(
        (least * (1.0 - 1e-7)).reaches(least) && (least * (1.0 - 1e-7)).is_within(least, Flow::from_gpm(8.0))
    );
    assert!(!Flow::from_gpm(0.099).reaches(least));
    assert!(!Flow::from_gpm(8.1).is_within(least, Flow::from_gpm(8.0)));
}
