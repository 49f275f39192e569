#![allow(clippy::unwrap_used, reason = "a test that can't go on fails")]

use fenlo_core::plan::Plan;
use fenlo_core::units::UnitSystem;
use fenlo_formats::{job_schema, read_job, write_job};
use proptest::prelude::*;

fn said(text: &str) -> String {
    read_job(text.as_bytes()).unwrap_err().to_string()
}

#[test]
fn a_job_reads_back_as_written() {
    let plan = Plan::new("Small job", UnitSystem::Metric);
    assert_eq!(read_job(write_job(&plan).as_bytes()).unwrap().into_plan(), plan);
}

#[test]
fn broken_jobs_are_refused_with_a_path() {
    let group = r#"{"format":"fenlo-job/1","name":"x","groups":[{"id":"g1","name":"Lawn",
        "plants":"lawn","nozzle":"spray-12","lots":[{"arc":90,"count":0}],"arrangement":"chain",
        "spacing":"12","pipe":"class-200 3/4in","distance":"20 ft"}]}"#;
    insta::assert_snapshot!(
        [
            said(r#"{"format":"fenlo-job/1","name":"x","colour":"green"}"#),
            said(group),
            said(&group.replace("\"12\"", "\"12 ft\"")),
            said(r#"{"format":"fenlo-job/2","name":""}"#),
            said(&format!("{{\"format\":\"fenlo-job/1\",\"name\":{}", "[".repeat(10_000))),
            said(&format!("{{\"name\":\"{}\"}}", "x".repeat(6_000_000))),
        ]
        .join("\n")
    );
}

#[test]
fn the_published_schema_is_that_of_the_types() {
    let parse = |text: &str| serde_json::from_str::<serde_json::Value>(text).unwrap();
    let published = parse(include_str!("../../../docs/job.schema.json"));
    assert_eq!(published, parse(&job_schema()), "run: cargo run -p fenlo -- schema > docs/job.schema.json");
}

proptest! {
    #[test]
    fn no_bytes_make_the_readers_panic(
        bytes in prop::collection::vec(any::<u8>(), 0..300),
        cut in 0usize..2000,
    ) {
        let _ = read_job(&bytes);
        let _ = fenlo_formats::read_network(&bytes);
        let job = write_job(&Plan::new("Small job", UnitSystem::Us));
        let _ = read_job(&job.as_bytes()[..cut.min(job.len())]);
    }
}

#[test]
fn the_demo_jobs_read_back_the_same() {
    for text in [
        include_str!("../../../fixtures/bowls-green.json"),
        include_str!("../../../fixtures/veterinary-clinic.json"),
        include_str!("../../../fixtures/corner-plot.json"),
    ] {
        let plan = read_job(text.as_bytes()).unwrap().into_plan();
        let again = read_job(write_job(&plan).as_bytes()).unwrap().into_plan();
        assert_eq!(again, plan);
    }
}
