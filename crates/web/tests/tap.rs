//! Two from one tap: a bucket and a gauge at a hose bib, sprinklers on stakes; from an empty job.

#![allow(clippy::unwrap_used, reason = "a test that can't go on fails")]

mod server;

use serde_json::Value;
use server::{ask, body, post, serve, status};
use sqlx::PgPool;

#[sqlx::test(migrations = false)]
async fn a_tap_by_its_bucket_says_how_far_stakes_throw_and_on_which_tube(pool: PgPool) {
    let at = serve(&pool).await;
    let started = post(at, "/jobs", "name=Two+from+one+tap&units=us", "").await;
    let job = started.split("/jobs/").nth(1).unwrap().split('/').next().unwrap().to_owned();
    let send = async |path: &str, form: &str| {
        let answer = post(at, &format!("/jobs/{job}/{path}"), form, "\r\nhx-request: true").await;
        assert_eq!(status(&answer), "200", "{path}: {}", body(&answer));
        answer
    };
    let see = async |path: &str| {
        let answer = ask(at, &format!("GET /jobs/{job}/{path} HTTP/1.1"), "").await;
        body(&answer).to_owned()
    };
    send("water/s1/source", "name=Kitchen+bib&water=tap&gauge_height=0+ft").await;
    // A tap is read like a main: its adders are there, and the page says how.
    assert!(see("water").await.contains("Start with a gauge and a bucket."));
    send("water/s1/readings/new", "kind=static&pressure=55+psi&when=&place=").await;
    send("water/s1/readings/new", "kind=bucket&volume=5+gal&time=25+s").await;
    // 12 gpm wide open, nothing of its pressure left: not what may be taken.
    let water = see("water").await;
    assert!(water.contains("hose bib wide open: all pressure used up"), "{water}");
    assert!(water.contains("company default until heads are added"), "{water}");
    send("heads/new", "name=Lawn&nozzle=stake-3&count=4&arc=360").await;
    let plan: Value = serde_json::from_str(&see("job.json").await).unwrap();
    assert_eq!(plan["groups"][0]["pipe"], "drip-poly 3/4in");
    let valves = plan["valves"].as_array().unwrap();
    assert_eq!(valves.len(), 2, "two at a time keep their throw: {valves:#?}");
    for valve in valves {
        assert_eq!((&valve["model"], &valve["assembly"]["stands"]), (&"hose-timer-1".into(), &"tap".into()));
        assert!(valve["filter"].is_null(), "sprinklers take no filter");
    }
    let pressure = see("pressure").await;
    for words in [
        "Radius by number of heads running",
        "Poly drip tubing 3/4 in supplies",
        "Poly drip tubing 1/2 in would supply",
        "3/4 in from 2,000 ft²",
        "All heads in range, all parts within limits.",
    ] {
        assert!(pressure.contains(words), "{words}: {pressure}");
    }
}
