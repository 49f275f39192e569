use super::answer::stops;
use super::*;
use crate::job::Job;
use crate::zone::tests::plan;
use crate::zone::zone_of;

#[test]
fn one_more_than_fits_breaks_a_limit_and_what_fits_does_not() {
    let mut p = plan(55.0, "spray-12", &[(180, 3)]);
    p.supplies[0].chain.push(crate::plan::ChainItem {
        id: "c1".into(),
        part: crate::plan::ChainPart::Meter { size: "3/4in".into() },
    });
    let a = answer(&Job::of(&p));
    let n = a.fits.expect("some fit");
    let design = a.assessment.supplies[0].design.flow;
    let with = |n: u32| {
        let mut tried = p.clone();
        tried.groups[0].listed[0].count = n;
        let zone = zone_of(&Job::of(&tried), &tried.valves[0]).unwrap();
        stops(&Job::of(&tried), &zone, design)
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
    assert!(a.fits_regulated.expect("a regulator is recommended").1 > a.fits.unwrap());
}

#[test]
fn heads_that_nothing_can_lift_fit_not_once() {
    let mut p = plan(15.0, "rotator-20", &[(180, 2)]);
    p.groups[0].rise = crate::units::Length::from_ft(20.0);
    let a = answer(&Job::of(&p));
    assert_eq!(a.fits, None);
    assert!(matches!(a.limit, Limit::Flow { heads: 1, .. }), "{:?}", a.limit);
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
        Some(value.to_owned())
            .filter(|v| !v.is_empty())
            .into_iter()
            .collect()
    };
    let form = Form {
        values: &values,
        bare: Bare::Taken,
    };
    let job = form.read().expect("a sound question");
    let row = job.groups[0].row.expect("dripline comes in rows");
    let a = answer(&job);
    let zone = a.zone.as_ref().expect("it can be solved");
    assert_eq!(zone.heads.len(), 3, "a row is one head");
    let by_hand = 3.0 * f64::from(row.emitters) * 0.6 / 60.0;
    assert!(
        (zone.flow.gpm() - by_hand).abs() < 0.03 * by_hand,
        "{} gpm, by hand {by_hand}",
        zone.flow.gpm()
    );
    assert!(a.fits.is_some_and(|n| n >= 3), "{:?}", a.fits);
}
