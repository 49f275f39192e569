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
