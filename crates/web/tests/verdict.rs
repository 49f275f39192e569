//! Each mark, colour, count and total that a page shows against the verdict of core: the demo jobs, and whole jobs
//! with faults of every kind.

#![allow(clippy::unwrap_used, reason = "a test that can't go on fails")]

mod server;

use fenlo_core::assess::{Assessment, assess};
use fenlo_core::job::Job;
use fenlo_core::steps::{Step, StepState};
use fenlo_core::verdict::{KeptAreas, Subject, Total, Verdict};
use fenlo_core::zone::HeadState;
use server::{FIXTURES, ask, body, multipart, serve, status};
use sqlx::PgPool;
use std::fs;
use std::path::Path;

/// Cases looked at beside the demo jobs.
const CASES: usize = 33;

/// What a page shows of a total, in the order stop, fix, watch, open.
fn pills(html: &str) -> Total {
    let of = |class: &str, word: &str| {
        let pill = html.split(&format!("class=\"pill {class}\">{word} ")).nth(1);
        pill.map_or(0, |p| p.split('<').next().unwrap().trim().parse().unwrap())
    };
    Total {
        stop: of("stop", "Stop"),
        fix: of("fix", "Fix"),
        watch: of("watch", "Watch"),
        open: of("open", "Open"),
    }
}

/// The marks of a lane.
fn signs(lane: &str) -> Total {
    let of = |mark: &str| {
        let sign = lane.split(&format!("\">{mark} ")).nth(1);
        sign.map_or(0, |s| s.split('<').next().unwrap().trim().parse().unwrap())
    };
    Total { stop: of("!"), fix: of("▲"), watch: of("◦"), open: of("□") }
}

/// States on the rail, in its order.
fn rail(html: &str) -> Vec<StepState> {
    let rail = html.split("id=\"rail\"").nth(1).unwrap().split("</nav>").next().unwrap();
    let of = |item: &str| match item.split(['"', ' ']).next().unwrap() {
        "stop" => StepState::Stops,
        "done" => StepState::Done,
        "open" => StepState::Open,
        other => panic!("no state: {other}"),
    };
    rail.split("<li class=\"").skip(1).map(of).collect()
}

fn states(known: &Assessment, wanted: HeadState) -> usize {
    let zones = known.zones.iter().filter_map(|z| z.zone.as_ref().ok());
    zones.flat_map(|z| &z.heads).filter(|h| h.state() == wanted).count()
}

async fn look(at: std::net::SocketAddr, id: usize, job: &Job, name: &str) {
    let known = assess(job);
    let verdict = Verdict::of(job, &known, 2026, &KeptAreas::default());
    let page = async |path: &str| {
        let answer = ask(at, &format!("GET /jobs/{id}/{path} HTTP/1.1"), "").await;
        assert_eq!(status(&answer), "200", "{name} {path}");
        body(&answer).to_owned()
    };
    for path in ["water", "heads", "valves", "pressure", "times", "parts", "quote"] {
        let html = page(path).await;
        assert_eq!(rail(&html), Step::ALL.map(|s| s.state(job, &verdict)), "{name}: rail on {path}");
        let checks = html.split("panel verdict").nth(1).and_then(|b| b.split("</section>").next());
        match (path, checks) {
            ("parts" | "quote", Some(checks)) => {
                assert_eq!(pills(checks.split("<ul>").next().unwrap()), verdict.total(), "{name}: {path}");
            }
            ("quote", None) => {
                let Total { stop, fix, open, .. } = verdict.total();
                assert_eq!((stop, fix, open), (0, 0, 0), "{name}: nothing is said on {path}");
            }
            _ => {}
        }
    }
    let html = page("valves").await;
    let lanes: Vec<Total> = html.split("class=\"lane-marks\"").skip(1).map(signs).collect();
    let wanted = job.valves.iter().map(|v| verdict.total_at(&Subject::Valve(v.id.clone())));
    assert_eq!(lanes, wanted.collect::<Vec<_>>(), "{name}: lanes");
    let (mut low, mut high) = (0, 0);
    for valve in &job.valves {
        let html = page(&format!("valves?valve={}", valve.id)).await;
        low += html.matches("class=\"chip low").count();
        high += html.matches("class=\"chip high").count();
        let told = html.matches("<article class=\"finding").count();
        let at = verdict.at(&Subject::Valve(valve.id.clone())).count();
        assert_eq!(told, at, "{name}: findings beside valve {}", valve.id);
    }
    let wanted = (states(&known, HeadState::Starved), states(&known, HeadState::Over));
    assert_eq!((low, high), wanted, "{name}: chips of heads");
    let board = page("ground").await;
    let drawn: usize = known
        .zones
        .iter()
        .filter_map(|z| z.zone.as_ref().ok())
        .flat_map(|z| &z.heads)
        .filter(|h| h.state() == HeadState::Starved)
        .filter(|h| job.group(&h.head.group).is_some_and(|g| g.is_drawn()))
        .count();
    assert_eq!(board.matches("class=\"alarm\"").count(), drawn, "{name}: heads on the board");
}

#[sqlx::test(migrations = false)]
async fn every_mark_colour_count_and_total_is_the_verdicts(pool: PgPool) {
    let at = serve(&pool).await;
    let mut jobs: Vec<(String, Job)> = Vec::new();
    for (name, text) in FIXTURES {
        jobs.push((name.to_owned(), fenlo_formats::read_job(text.as_bytes()).unwrap()));
    }
    for (name, text) in fenlo_web::DEMO {
        let sent = multipart(at, "/jobs/import", "demo.json", text.as_bytes()).await;
        assert_eq!(status(&sent), "303", "{name}");
        jobs.push((name.to_owned(), fenlo_formats::read_job(text.as_bytes()).unwrap()));
    }
    let all = CASES + jobs.len();
    let cases = Path::new(env!("CARGO_MANIFEST_DIR")).join("../core/tests/cases");
    let mut files: Vec<_> = fs::read_dir(cases).unwrap().map(|e| e.unwrap().path()).collect();
    files.retain(|f| f.extension().is_some_and(|e| e == "json"));
    files.sort();
    for file in &files {
        if jobs.len() >= all {
            break;
        }
        let case: serde_json::Value = serde_json::from_slice(&fs::read(file).unwrap()).unwrap();
        let plan = serde_json::from_value(case["plan"].clone()).unwrap();
        let job = Job::new(plan);
        let text = fenlo_formats::write_job(&job);
        let sent = multipart(at, "/jobs/import", "case.json", text.as_bytes()).await;
        assert_eq!(status(&sent), "303", "{file:?}");
        jobs.push((file.file_stem().unwrap().to_string_lossy().into_owned(), job));
    }
    assert_eq!(jobs.len(), 40);
    let mut wrong = 0;
    for (id, (name, job)) in (1..).zip(&jobs) {
        look(at, id, job, name).await;
        wrong += usize::from(!Verdict::of(job, &assess(job), 2026, &KeptAreas::default()).total().is_none());
    }
    assert!(wrong > CASES / 2, "only {wrong} jobs have anything to show");
    // The list keeps what was found with the last edit of each.
    for page in 0.. {
        let list = ask(at, &format!("GET /?page={page} HTTP/1.1"), "").await;
        let rows: Vec<&str> = body(&list).split("<a class=\"job-row\" href=\"/jobs/").skip(1).collect();
        if rows.is_empty() {
            break;
        }
        for row in rows {
            let id: usize = row.split('/').next().unwrap().parse().unwrap();
            let (name, job) = &jobs[id - 1];
            let total = Verdict::of(job, &assess(job), 2026, &KeptAreas::default()).total();
            assert_eq!(pills(row.split("</a>").next().unwrap()), total, "{name}: the list");
        }
    }
}

#[sqlx::test(migrations = false)]
async fn a_gesture_does_not_wait_for_the_verdict_and_the_rail_follows(pool: PgPool) {
    let at = serve(&pool).await;
    // Somebody looks at the page: the verdict is known.
    let page = ask(at, "GET /jobs/1/ground HTTP/1.1", "").await;
    let before = rail(body(&page));
    let drawn = r#"{"do":"add","thing":{"id":"t1","name":"Lawn <b>","what":{"is":"area","kind":"lawn",
    "shape":{"outline":[[0,0],[10,0],[10,10],[0,10]]}}}}"#;
    let told = server::gesture(at, "1", 0, "k1", drawn).await;
    assert_eq!(status(&told), "200", "{told}");
    let told: serde_json::Value = serde_json::from_str(body(&told)).unwrap();
    let head = told["head"].as_str().unwrap();
    assert!(head.contains("hx-get=\"/jobs/1/rail?at=ground\""), "{head}");
    let fresh = ask(at, "GET /jobs/1/rail?at=ground HTTP/1.1", "").await;
    let now = rail(&format!("id=\"rail\"{}</nav>", body(&fresh)));
    assert_ne!(now, before, "an area without heads is open");
    assert!(!body(&fresh).contains("hx-get"));
}
