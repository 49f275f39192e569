//! Nozzle charts in and out.

#![allow(clippy::unwrap_used, reason = "a test that can't go on fails")]

use fenlo_core::catalogue::{ArcRule, Catalogue, Kind};
use fenlo_formats::{read_chart, write_chart};
use proptest::prelude::*;

fn read(text: &str) -> (Vec<fenlo_core::catalogue::OwnNozzle>, Vec<String>) {
    let (nozzles, faults) = read_chart(text, None, |name| format!("own-{name}"));
    (nozzles, faults.into_iter().map(|f| format!("{}: {}", f.line, f.message)).collect())
}

#[test]
fn a_chart_is_read_in_the_units_of_its_header_and_fitted() {
    // An orifice: 2 gpm at 20 psi, so 2 sqrt 2 = 2.828 at 40; half circles give half.
    let (n, faults) = read(
        "Name;Kind;Pressure (kPa);Arc;Radius m;Flow L/min;Price\nOurs \
            12;spray;137.895;360;3.2;7.5708;1.85\nOurs 12;spray;275.79;360;3.7;10.7067;\nOurs \
            12;spray;137.895;180;3.2;3.7854;\n",
    );
    assert!(faults.is_empty() && n.len() == 1, "{faults:?}");
    assert_eq!(
        (n[0].kind, n[0].chart.len(), n[0].price.unwrap().to_string().as_str()),
        (Kind::Spray, 3, "1.85")
    );
    let fit = n[0].fit(Catalogue::builtin().class(Kind::Spray)).unwrap();
    assert_eq!(fit.arc_rule, ArcRule::Proportional);
    assert!(
        (fit.exponent - 0.5).abs() < 1e-3 && (fit.flow.gpm() - 2.0 * 1.5f64.sqrt()).abs() < 2e-3,
        "{fit:?}"
    );
    assert!(fit.flow_off < 1e-3 && fit.radius_off < 0.1, "{fit:?}");
    // Written and read again it says the same.
    let (again, faults) = read(&write_chart(&n));
    assert!(faults.is_empty());
    for (a, b) in n[0].chart.iter().zip(&again[0].chart) {
        assert!(
            (a.pressure.kpa() - b.pressure.kpa()).abs() < 1e-4
                && (a.flow.lpm() - b.flow.lpm()).abs() < 1e-5
                && (a.radius.m() - b.radius.m()).abs() < 1e-6
        );
    }
    // Rotors: the flow of a row does not ask for its arc.
    let (r, _) = read(
        "name,kind,pressure psi,arc,radius ft,flow gpm\nR,rotor-mid,45,90,38,3\nR,rotor-mid,45,180,38,3\n",
    );
    assert_eq!(r[0].fit(Catalogue::builtin().class(Kind::RotorMid)).unwrap().arc_rule, ArcRule::Any);
}

#[test]
fn faults_name_their_line_and_what_was_expected() {
    let (n, faults) = read(
        "name,kind,pressure psi,arc,radius ft,flow \
            gpm\nA,spray,30,360,12,2.4\nB,spray,thirty,360,12,2.4\nC,cannon,30,400,12,-1\n,spray,30,360,12,2\nB,spray,30,360,12,2.4\n",
    );
    assert_eq!(
        n.iter().map(|n| n.label.as_str()).collect::<Vec<_>>(),
        ["A"],
        "a nozzle with a broken row stays out"
    );
    assert_eq!(
        faults,
        [
            "3: pressure is ‘thirty’: expected a number over zero",
            "4: flow is ‘-1’: expected a number over zero",
            "4: arc is ‘400’: expected 20 to 360 degrees",
            "4: kind is ‘cannon’: expected spray, rotator, rotator-short, rotor-short, rotor-mid or \
                rotor-large",
            "5: has no value in the name column",
        ]
    );
    let (_, faults) = read("name,kind,pressure,arc,radius ft,flow buckets\n");
    assert_eq!(
        faults,
        [
            "1: add the unit of pressure to the header, such as ‘pressure psi’",
            "1: add the unit of flow to the header, such as ‘flow gpm’"
        ]
    );
    assert!(read("").1[0].contains("no column") && read(&"x".repeat(600_000)).1[0].contains("over 500 kB"));
    // What a sheet would take for a formula is written so that it does not.
    let (n, _) = read("name,kind,pressure psi,radius ft,flow gpm\n=1+1,spray,30,12,2.4\n");
    assert!(write_chart(&n).contains("'=1+1"));
}

proptest! {
    #[test]
    fn any_text_is_read_or_refused(text in "(name,kind,pressure psi,radius ft,flow \
        gpm\n)?[\\PC\n,;\"]{0,300}") {
        let (nozzles, faults) = read(&text);
        prop_assert!(!faults.is_empty() || !nozzles.is_empty());
        for n in nozzles {
            let fit = n.fit(Catalogue::builtin().class(n.kind)).unwrap();
            prop_assert!(fit.flow.lpm().is_finite() && fit.exponent.is_finite());
        }
    }
}

#[test]
fn charts_as_other_sheets_write_them_read() {
    // A title above, tabs, units alone as names of columns.
    let (n, faults) =
        read("Our nozzles 2026\n\nModel\tKind\tPSI\tft\tGPM\tPrice\nA\tspray\t30\t12\t2.4\t1,85\n");
    assert!(faults.is_empty(), "{faults:?}");
    let row = &n[0].chart[0];
    assert!((row.pressure.psi() - 30.0).abs() < 1e-9 && (row.flow.gpm() - 2.4).abs() < 1e-9);
    assert!((row.radius.ft() - 12.0).abs() < 1e-9);
    assert_eq!(n[0].price.unwrap().to_string(), "1.85", "a comma in the price too");
    // Faults are told by the line of the file, title and all.
    let (_, faults) = read("Our nozzles\nname,kind,psi,ft,gpm\nA,spray,30,12,x\n");
    assert_eq!(faults, ["3: flow is ‘x’: expected a number over zero"]);
}

#[test]
fn a_comma_that_may_be_either_is_asked_about() {
    let (n, faults) =
        read("name,kind,pressure kPa,radius m,flow L/h,price\nA,spray,200,\"3,7\",\"1,200\",2\n");
    assert_eq!(faults, ["2: flow is ‘1,200’ could be 1200 or 1.200. Enter one of these"]);
    assert!(n.is_empty());
    // In a file that parts by semicolons a comma is a decimal one; two of them, or a point behind, say
    // thousands.
    let (n, faults) = read("name;kind;pressure kPa;radius m;flow L/h\nA;spray;200;3,7;1,200\n");
    assert!(faults.is_empty() && (n[0].chart[0].flow.lpm() * 60.0 - 1.2).abs() < 1e-9, "{faults:?}");
    let (n, faults) = read("name,kind,pressure kPa,radius m,flow L/h\nA,spray,200,3.7,\"1,200.5\"\n");
    assert!(faults.is_empty() && (n[0].chart[0].flow.lpm() * 60.0 - 1200.5).abs() < 1e-9, "{faults:?}");
}

#[test]
fn rows_that_contradict_one_another_are_told_by_their_lines() {
    let head = "name,kind,pressure psi,arc,radius ft,flow gpm\n";
    let (n, faults) =
        read(&format!("{head}A,spray,30,360,12,2.4\nB,spray,30,360,9,1\nA,spray,30,360,12,2.6\n"));
    assert_eq!(faults, ["4: conflicts with line 2 at the same pressure and arc"]);
    assert_eq!(n.iter().map(|n| n.label.as_str()).collect::<Vec<_>>(), ["B"]);
    let (_, faults) = read(&format!("{head}A,spray,40,360,12,2.4\nA,spray,30,360,12,2.6\n"));
    assert_eq!(faults, ["3: compared with line 2, higher pressure gives less flow"]);
    // The same row again, and other arcs, contradict nothing.
    let (n, faults) =
        read(&format!("{head}A,spray,30,360,12,2.4\nA,spray,30,360,12,2.4\nA,spray,30,180,12,1.2\n"));
    assert!(faults.is_empty() && n.len() == 1, "{faults:?}");
}

#[test]
fn a_name_that_looks_like_a_formula_comes_back_as_it_went() {
    let (mut n, _) = read("name,kind,pressure psi,radius ft,flow gpm\nA,spray,30,12,2.4\n");
    for label in ["=1+1", "-12 short", "'quoted", "@home", "plain"] {
        n[0].label = label.into();
        let text = write_chart(&n);
        let cell = text.lines().nth(1).unwrap();
        assert!(!cell.starts_with(['=', '+', '-', '@']), "{cell}");
        assert_eq!(read(&text).0[0].label, label);
    }
}
