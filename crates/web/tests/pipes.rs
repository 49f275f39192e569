//! Pipe from its forms: proposed, sized, pinned, kept; what can't be is said and changes nothing.

#![allow(clippy::unwrap_used, reason = "a test that can't go on fails")]

mod server;

use serde_json::Value;
use server::{ask, body, post, serve, status};
use sqlx::PgPool;
use std::net::SocketAddr;

async fn plan(at: SocketAddr) -> Value {
    let answer = ask(at, "GET /jobs/3/job.json HTTP/1.1", "").await;
    serde_json::from_str(body(&answer)).unwrap()
}
async fn send(at: SocketAddr, path: &str, form: &str) -> String {
    post(at, &format!("/jobs/3/{path}"), form, "\r\nhx-request: true").await
}
fn legs(plan: &Value) -> Vec<Value> {
    plan["piping"]["legs"].as_array().cloned().unwrap_or_default()
}

#[sqlx::test(migrations = false)]
async fn pipe_is_proposed_changed_and_kept(pool: PgPool) {
    let at = serve(&pool).await;
    let answer = send(at, "ground/pipes", "op=route").await;
    assert_eq!(status(&answer), "200", "{}", body(&answer));
    assert!(answer.contains("hx-trigger: board-changed"));
    let laid = legs(&plan(at).await);
    assert!(laid.iter().any(|l| l["of"]["main"] == "s1") && laid.iter().any(|l| l["of"]["lateral"] == "v5"));
    let id = laid.iter().find(|l| l["of"]["lateral"] == "v5").unwrap()["id"].as_str().unwrap().to_owned();
    let own = |plan: &Value| legs(plan).into_iter().find(|l| l["id"] == *id).unwrap();

    // Another size is pinned; sizes found again leave it, and say the rest is as cheap as can be.
    for form in [
        format!("op=pipe&ids={id}&pipe=class-200 1-1/2in"),
        format!("op=depth&ids={id}&depth=14 in"),
        format!("op=keep&ids={id}"),
    ] {
        let answer = send(at, "ground/pipes", &form).await;
        assert_eq!(status(&answer), "200", "{form}: {}", body(&answer));
    }
    let leg = own(&plan(at).await);
    assert_eq!(
        (&leg["pipe"], &leg["size_pinned"], &leg["depth"], &leg["kept"]),
        (&"class-200 1-1/2in".into(), &true.into(), &"14 in".into(), &true.into())
    );
    send(at, "ground/pipes", "op=size").await;
    assert_eq!(own(&plan(at).await)["pipe"], "class-200 1-1/2in");
    // Its zone is not routed anew while it is kept.
    let before = plan(at).await;
    let refused = send(at, "ground/pipes", "op=reroute&valve=v5").await;
    assert_eq!(status(&refused), "422", "{}", body(&refused));
    assert_eq!(plan(at).await, before);

    // The sheet opens the figures of a pipe.
    let sheet = ask(at, &format!("GET /jobs/3/ground/sheet?ids={id} HTTP/1.1"), "").await;
    for words in ["Lateral of valve 5", "Velocity", "4.52 L Q^1.852", "Unlock size", "14 in"] {
        assert!(body(&sheet).contains(words), "{words}");
    }
    // Branched and chained, in figures.
    let shapes = ask(at, "GET /jobs/3/ground/shapes?valve=v5 HTTP/1.1", "").await;
    assert!(body(&shapes).contains("in line") && body(&shapes).contains("branched"), "{}", body(&shapes));
    let none = ask(at, "GET /jobs/3/ground/shapes?valve=nobody HTTP/1.1", "").await;
    assert!(body(&none).contains("no drawn heads"));
    // Valves of one connection run together; one alone is asked for company.
    let both = ask(at, "GET /jobs/3/ground/together?valves=v1,v5 HTTP/1.1", "").await;
    assert!(body(&both).contains("Total") && body(&both).contains("Solved together on the shared mainline"));
    let one = ask(at, "GET /jobs/3/ground/together?valves=v1,v99 HTTP/1.1", "").await;
    assert!(body(&one).contains("Select two or more valves"));
}

#[sqlx::test(migrations = false)]
async fn what_can_t_be_done_with_pipe_is_said_and_changes_nothing(pool: PgPool) {
    let at = serve(&pool).await;
    send(at, "ground/pipes", "op=route").await;
    let before = plan(at).await;
    let id = legs(&before)[0]["id"].as_str().unwrap().to_owned();
    for (form, code) in [
        (format!("op=pipe&ids={id}&pipe=rubber 9in"), "422"),
        (format!("op=pipe&ids={id}&pipe=hose"), "422"),
        (format!("op=depth&ids={id}&depth=deep"), "422"),
        (format!("op=depth&ids={id}&depth=900 ft"), "422"),
        (format!("op=paint&ids={id}"), "422"),
        ("op=pin&ids=p9999".into(), "409"),
        ("op=reroute&valve=v99".into(), "422"),
    ] {
        let answer = send(at, "ground/pipes", &form).await;
        assert_eq!(status(&answer), code, "{form}: {}", body(&answer));
    }
    assert_eq!(plan(at).await, before);
}

#[sqlx::test(migrations = false)]
async fn how_pipe_is_laid_is_typed_by_the_foot(pool: PgPool) {
    let at = serve(&pool).await;
    let form = "price=1.10&pipe=0.43&tee=3&valve_box=45&rooted=2.5&paved=4&crossing=20 ft&off_buildings=3 ft\
        &main_depth=18 in&lateral_depth=10 in&frost_depth=16 in&sizes=3/4in, 1 in";
    let answer = send(at, "trench", form).await;
    assert_eq!(status(&answer), "200", "{}", body(&answer));
    let rules = plan(at).await["rules"]["trench"].clone();
    // 1.10 a foot is 3.6089 a metre.
    assert_eq!(rules["price"], "3.6089");
    assert_eq!(rules["sizes"], serde_json::json!(["3/4in", "1in"]));
    for (field, typed, words) in [
        ("price", "cheap", "enter a price"),
        ("rooted", "0.5", "from 1 to 100"),
        ("main_depth", "900 ft", "is over 20 ft"),
        ("sizes", "7in", "unknown pipe size"),
    ] {
        let was = form.split('&').find(|p| p.starts_with(&format!("{field}="))).unwrap();
        let wrong = form.replace(was, &format!("{field}={typed}"));
        let answer = send(at, "trench", &wrong).await;
        assert_eq!(status(&answer), "422", "{field}");
        assert!(body(&answer).contains(words), "{field}: {}", body(&answer));
    }
    assert_eq!(plan(at).await["rules"]["trench"], rules);
}

#[sqlx::test(migrations = false)]
async fn pipe_that_takes_long_shows_a_bar_and_is_stopped_or_taken_over(pool: PgPool) {
    let at = serve(&pool).await;
    let bar = async || {
        let answer = ask(at, "GET /jobs/3/beside/pipe-run HTTP/1.1", "").await;
        body(&answer).to_owned()
    };
    let until_ready = async || {
        for _ in 0..600 {
            if bar().await.contains("name=\"take\"") {
                return;
            }
            tokio::time::sleep(std::time::Duration::from_millis(50)).await;
        }
        panic!("not laid in half a minute: {}", bar().await);
    };
    let pipes = async || plan(at).await["piping"].clone();
    assert!(bar().await.is_empty(), "nothing is being laid");
    let before = pipes().await;
    // Nobody waits: the page gets a bar with a button to stop it, and nothing is changed.
    let shown = send(at, "ground/pipes", "op=route&wait=0").await;
    assert!(body(&shown).contains("id=\"pipe-run\""), "{}", body(&shown));
    assert!(shown.contains("/beside/pipe-run/stop") || shown.contains("name=\"take\""), "{shown}");
    assert_eq!(status(&send(at, "beside/pipe-run/stop", "").await), "204");
    assert!(bar().await.contains("Stopped. The plan is unchanged."));
    assert!(bar().await.is_empty(), "that is said once");
    assert_eq!(pipes().await, before);
    let refused = send(at, "ground/pipes", "op=route&take=1").await;
    assert_eq!((status(&refused), pipes().await), ("422", before.clone()));
    // Begun anew, left alone and taken over: what a page that waited would have got.
    send(at, "ground/pipes", "op=route&wait=0").await;
    until_ready().await;
    let taken = send(at, "ground/pipes", "op=route&take=1").await;
    assert_eq!(status(&taken), "200", "{taken}");
    assert!(taken.contains("board-changed"));
    let laid = pipes().await;
    assert_ne!(laid, before);
    assert!(bar().await.is_empty());
    assert_eq!(status(&send(at, "ground/pipes", "op=route&take=1").await), "422");
    // The plan was changed meanwhile: that pipe would be another plan's.
    send(at, "ground/pipes", "op=route&wait=0").await;
    until_ready().await;
    let other = send(at, "parts/own", "quantity=1&text=Sign&unit=each").await;
    assert_eq!(status(&other), "200", "{other}");
    let late = send(at, "ground/pipes", "op=route&take=1").await;
    assert_eq!(status(&late), "422", "{late}");
    assert!(late.contains("changed during the calculation"), "{late}");
    assert_eq!(pipes().await, laid);
}

#[sqlx::test(migrations = false)]
async fn a_split_that_takes_long_shows_a_bar_and_is_stopped_or_taken_over(pool: PgPool) {
    let at = serve(&pool).await;
    let bar = async |place: &str| {
        let answer = ask(at, &format!("GET /jobs/3/beside/{place} HTTP/1.1"), "").await;
        body(&answer).to_owned()
    };
    let until = async |place: &str, says: &str| {
        for _ in 0..600 {
            if bar(place).await.contains(says) {
                return;
            }
            tokio::time::sleep(std::time::Duration::from_millis(50)).await;
        }
        panic!("not split in half a minute: {}", bar(place).await);
    };
    let valves = async || plan(at).await["valves"].clone();
    let nowhere = ask(at, "GET /jobs/3/beside/nowhere HTTP/1.1", "").await;
    assert_eq!(status(&nowhere), "404");
    assert_eq!(status(&send(at, "valves/v1/remove", "").await), "200");
    let before = valves().await;
    // Loose heads of the page Valves: a bar that is stopped, then one that is left alone.
    let loose = "scope=loose&wait=0";
    let shown = send(at, "valves/split", loose).await;
    assert!(body(&shown).contains("id=\"v-loose\""), "{shown}");
    assert_eq!(status(&send(at, "beside/v-loose/stop", "").await), "204");
    assert!(bar("v-loose").await.contains("Stopped. The plan is unchanged."));
    assert_eq!(valves().await, before);
    send(at, "valves/split", loose).await;
    until("v-loose", "name=\"take\"").await;
    // The same heads are meant by the board's button: it finds what was worked out.
    assert!(bar("loose-run").await.contains("to-valves"));
    let taken = send(at, "ground/op", "op=to-valves&form=loose&take=1").await;
    assert_eq!(status(&taken), "200", "{taken}");
    let put = valves().await;
    assert_ne!(put, before);
    assert!(bar("v-loose").await.is_empty());
    let gone = send(at, "valves/split", "scope=loose&take=1").await;
    assert!(status(&gone) == "400" && gone.contains("This result has expired"), "{gone}");
    // A new split is looked at first, however long it takes.
    let looked = ask(at, "GET /jobs/3/valves/split?wait=0 HTTP/1.1", "").await;
    assert!(body(&looked).contains("v-split"), "{looked}");
    until("v-split", "hx-get=\"/jobs/3/valves/split\"").await;
    assert_eq!(valves().await, put, "nothing is changed by looking");
}
