use super::*;
use crate::job::Job;
use crate::zone::tests::plan;
use crate::zone::zone_of;
use crate::zoning::{Fits, Limit, stops};

#[test]
fn one_more_than_fits_breaks_a_limit_and_what_fits_does_not() {
    let mut p = plan(55.0, "spray-12", &[(180, 3)]);
    p.supplies[0].chain.push(crate::plan::ChainItem {
        id: "c1".into(),
        part: crate::plan::ChainPart::Meter { size: "3/4in".into() },
    });
    let a = answer(&Job::of(&p));
    let n = a.fits.aim.expect("some fit");
    let design = a.assessment.supplies[0].design.limit();
    let with = |n: u32| {
        let mut tried = p.clone();
        tried.groups[0].listed[0].count = n;
        let zone = zone_of(&Job::of(&tried), &tried.valves[0]).unwrap();
        stops(&Job::of(&tried), &tried.valves[0], &zone, design, a.aim.pressure(zone.lowest().band))
    };
    assert_eq!(with(n), None);
    assert_eq!(with(n + 1), Some(a.limit));
}

#[test]
fn a_regulator_lets_more_heads_share_a_high_pressure() {
    let mut p = plan(90.0, "spray-12", &[(180, 5)]);
    p.groups[0].pipe = "class-200 1in".parse().unwrap();
    p.supplies[0].chain.push(crate::plan::ChainItem {
        id: "c1".into(),
        part: crate::plan::ChainPart::Meter { size: "3/4in".into() },
    });
    let a = answer(&Job::of(&p));
    assert!(a.fits_regulated.expect("a regulator is recommended").1 > a.fits.aim.unwrap());
}

#[test]
fn heads_that_nothing_can_lift_fit_not_once() {
    let mut p = plan(15.0, "rotator-20", &[(180, 2)]);
    p.groups[0].rise = crate::units::Length::from_ft(20.0);
    let a = answer(&Job::of(&p));
    assert_eq!(a.fits, Fits::default());
    assert!(matches!(a.limit, Limit::Pressure { heads: 1, .. }), "{:?}", a.limit);
}

#[test]
fn dripline_is_asked_about_in_rows_with_emitters() {
    // Rows of 40 emitters of 0.6 gph, 24 gph or 0.4 gpm a row: by hand three rows take 1.2 gpm.
    let values = |field: &str| -> Vec<String> {
        let value = match field {
            "units" => "us",
            "static" => "60 psi",
            "meter" => "3/4in",
            "backflow" => "none",
            "head" => "dripline-0.6",
            "count" => "3",
            "spacing" => "18 in",
            "pipe" => "drip-poly 3/4in",
            "arrangement" => "chain",
            "distance" => "10 ft",
            "regulate" => "inline",
            "set" => "30 psi",
            "valve" => "valve-1in",
            _ => "",
        };
        Some(value.to_owned()).filter(|v| !v.is_empty()).into_iter().collect()
    };
    let form = Form { values: &values, bare: Bare::Taken };
    let job = form.read().expect("a sound question");
    let row = job.groups[0].row.expect("dripline comes in rows");
    let a = answer(&job);
    let zone = a.zone.as_ref().expect("it can be solved");
    assert_eq!(zone.heads.len(), 3, "a row is one head");
    let by_hand = 3.0 * f64::from(row.emitters) * 0.6 / 60.0;
    assert!((zone.flow.gpm() - by_hand).abs() < 0.03 * by_hand, "{} gpm, by hand {by_hand}", zone.flow.gpm());
    assert!(a.fits.aim.is_some_and(|n| n >= 3), "{:?}", a.fits);
}

/// Answers a question of the form.
fn asked(fields: &[(&str, &str)]) -> Answer {
    let values = |field: &str| -> Vec<String> {
        let given = fields.iter().find(|f| f.0 == field).map(|f| f.1);
        let usual = match field {
            "units" => "us",
            "arrangement" => "chain",
            "valve" => "valve-1in",
            "backflow" => "none",
            "regulate" => "none",
            "arc" => "180",
            "count" => "3",
            _ => "",
        };
        let value = given.unwrap_or(usual);
        Some(value.to_owned()).filter(|v| !v.is_empty()).into_iter().collect()
    };
    let form = Form { values: &values, bare: Bare::Taken };
    answer(&form.read().unwrap_or_else(|f| panic!("{f:?}")))
}

/// Sites and their counts at nominal, at the aim and at the bottom of the band, computed apart from
/// the program: Hazen and Williams leg by leg, the orifice law at each head, bisection on the flow.
#[test]
fn everyday_sites_are_told_how_many_fit() {
    // 60 psi, 1 in meter, 50 ft of 1 1/4 in copper, reduced-pressure assembly, rotors of 3 gpm at 45 psi
    // 38 ft apart on 1 1/4 in: 4 keep 45 psi, 6 keep 40.5, 9 keep 35; 24.7 gpm after the margin.
    let a = asked(&[
        ("static", "60 psi"),
        ("meter", "1in"),
        ("service", "copper-l 1-1/4in"),
        ("service_length", "50 ft"),
        ("backflow", "reduced-pressure"),
        ("head", "rotor-3"),
        ("spacing", "38 ft"),
        ("pipe", "class-200 1-1/4in"),
        ("distance", "40 ft"),
        ("rise", "0 ft"),
    ]);
    let flow = a.assessment.supplies[0].design.flow.expect("meter and service line are known");
    assert!((flow.gpm() - 24.7).abs() < 0.05, "{} gpm", flow.gpm());
    assert_eq!((a.fits.nominal, a.fits.aim, a.fits.least), (Some(4), Some(6), Some(9)));
    assert_eq!(a.aim, crate::water::Aim::Best);
    assert!(matches!(a.limit, Limit::Pressure { heads: 7, .. }), "{:?}", a.limit);
}

#[test]
fn a_static_pressure_alone_gives_no_design_flow() {
    let a = asked(&[
        ("static", "60 psi"),
        ("head", "spray-12"),
        ("spacing", "12 ft"),
        ("pipe", "class-200 1in"),
        ("distance", "20 ft"),
        ("rise", "0 ft"),
    ]);
    let design = &a.assessment.supplies[0].design;
    assert_eq!(design.flow, None, "nobody read it with water running");
    assert!(design.methods.iter().any(|m| m.says == crate::water::MethodSays::ReadRunning));
    // What can be said is: the pressure and the pipe still count heads.
    assert!(a.fits.aim.is_some_and(|n| n > 1), "{:?}", a.fits);
}

#[test]
fn fewer_keep_the_nominal_than_the_bottom_and_a_lower_street_never_keeps_it_for_more() {
    // At the bottom of the band it is often the flow that stops, and at a lower pressure each head takes
    // less: there a lower street may well carry more heads.
    let mut last = [u32::MAX; 3];
    for psi in ["55 psi", "50 psi", "45 psi", "42 psi", "38 psi", "34 psi", "25 psi", "12 psi"] {
        let a = asked(&[
            ("static", psi),
            ("meter", "3/4in"),
            ("service", "copper-l 1in"),
            ("service_length", "40 ft"),
            ("head", "rotator-20"),
            ("spacing", "18 ft"),
            ("pipe", "class-200 1in"),
            ("distance", "30 ft"),
            ("rise", "2 ft"),
        ]);
        let now = [a.fits.nominal, a.fits.aim, a.fits.least].map(Option::unwrap_or_default);
        assert!(now[0] <= now[1] && now[1] <= now[2], "{psi}: {now:?}");
        assert!(now[0] <= last[0], "{psi}: {now:?} after {last:?}");
        last = now;
    }
    assert_eq!(last[2], 0, "12 psi carry no rotator");
}
