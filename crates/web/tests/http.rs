//! What the server answers to requests that no page of ours makes.

#![allow(clippy::unwrap_used, reason = "a test that can't go on fails")]

mod server;

use server::{ask, body, post, serve, status};
use sqlx::PgPool;

#[sqlx::test(migrations = false)]
async fn every_answer_has_a_strict_policy_and_nothing_inline(pool: PgPool) {
    let address = serve(&pool).await;
    for path in [
        "/",
        "/quick",
        "/jobs/3/water",
        "/jobs/3/heads",
        "/jobs/3/valves",
        "/jobs/3/pressure",
        "/jobs/3/details",
        "/nowhere",
        "/assets/app.css",
    ] {
        let answer = ask(address, &format!("GET {path} HTTP/1.1"), "").await;
        assert!(
            answer.contains(
                "content-security-policy: default-src 'none'; script-src 'self'; style-src 'self';"
            ),
            "{path}"
        );
        assert!(
            answer.contains("x-content-type-options: nosniff") && answer.contains("frame-ancestors 'none'"),
            "{path}"
        );
        let page = answer.split("\r\n\r\n").nth(1).unwrap_or_default();
        assert!(
            !page.contains(" style=\"") && !page.contains("onclick=") && !page.contains("<script>"),
            "{path}"
        );
        assert!(
            !page.contains("http://") || path.ends_with(".css") || page.contains("www.w3.org/2000/svg"),
            "{path} names another server"
        );
    }
}

#[sqlx::test(migrations = false)]
async fn posts_of_other_sites_are_refused(pool: PgPool) {
    let address = serve(&pool).await;
    let post_from = |origin: &'static str, site: &'static str| {
        let head = format!(
            "POST /jobs HTTP/1.1\r\ncontent-type: application/x-www-form-urlencoded\r\norigin: \
                {origin}\r\nsec-fetch-site: {site}"
        );
        async move { ask(address, &head, "name=Stolen").await }
    };
    assert_eq!(status(&post_from("http://evil.example", "cross-site").await), "403");
    assert_eq!(status(&post_from("null", "cross-site").await), "403");
    assert_eq!(status(&post(address, "/jobs", "name=Ours", "").await), "303");
}

#[sqlx::test(migrations = false)]
async fn what_people_type_is_escaped(pool: PgPool) {
    let address = serve(&pool).await;
    let answer =
        post(address, "/jobs", "name=%3Cscript%3Ealert(1)%3C%2Fscript%3E&place=%22onload%3D%22", "").await;
    let path = answer.lines().find_map(|l| l.strip_prefix("location: ")).unwrap().to_owned();
    for path in [path.as_str(), "/"] {
        let page = ask(address, &format!("GET {path} HTTP/1.1"), "").await;
        assert!(!page.contains("<script>alert") && !page.contains("\"onload=\""), "{path}");
        assert!(page.contains("&#60;script&#62;") || page.contains("&lt;script&gt;"), "{path}");
    }
}

#[sqlx::test(migrations = false)]
async fn bodies_and_files_are_bounded_and_faults_have_their_path(pool: PgPool) {
    let address = serve(&pool).await;
    let form = format!("name={}", "x".repeat(400_000));
    assert_eq!(status(&post(address, "/jobs", &form, "").await), "413");
    let file = |content: &str| {
        format!(
            "--B\r\ncontent-disposition: form-data; name=\"file\"; \
                filename=\"job.json\"\r\n\r\n{content}\r\n--B--\r\n"
        )
    };
    let import = |content: String| async move {
        let head = format!(
            "POST /jobs/import HTTP/1.1\r\ncontent-type: multipart/form-data; boundary=B\r\norigin: \
                http://{address}"
        );
        ask(address, &head, &file(&content)).await
    };
    let large = import("x".repeat(8_000_000)).await;
    assert!(status(&large) == "422" && body(&large).contains("at most 5 MB"), "{large}");
    assert_eq!(status(&import("x".repeat(18_000_000)).await), "400");
    let deep =
        import(format!("{{\"format\":\"fenlo-job/1\",\"name\":\"x\",\"groups\":{}", "[".repeat(100_000)))
            .await;
    assert_eq!(status(&deep), "422");
    let unknown = import("{\"format\":\"fenlo-job/1\",\"name\":\"x\",\"colour\":1}".into()).await;
    assert!(unknown.contains("colour: unknown field"), "{unknown}");
    assert_eq!(status(&import(include_str!("../../../fixtures/corner-plot.json").to_owned()).await), "303");
}

#[sqlx::test(migrations = false)]
async fn odd_requests_never_make_a_500(pool: PgPool) {
    let address = serve(&pool).await;
    for path in [
        "/jobs/99999999999999999999/water",
        "/jobs/-1/water",
        "/jobs/3/valves?valve=%00%ff",
        "/jobs/3/pressure?valve=v1&look=999999",
        "/jobs/3/pressure?look=-1",
        "/?page=-5",
        "/?page=99999999999&search=%25",
        "/quick?static=nan&count=-1",
        "/quick?count=4294967296&arc=99999&static=1e308",
        "/quick?head=dripline-0.6&count=3&static=60&spacing=1&distance=1&pipe=drip-poly%203/4in",
        "/quick?static=64&static=65",
        "/assets/../Cargo.toml",
        "/assets/%2e%2e/Cargo.toml",
    ] {
        let answer = ask(address, &format!("GET {path} HTTP/1.1"), "").await;
        assert!(
            !answer.contains("NaN") && status(&answer) < "500",
            "{path}: {}",
            &answer[..200.min(answer.len())]
        );
    }
    let edits = [
        ("/jobs/3/apply", "base=0&to=valves&edit=nonsense", "400"),
        (
            "/jobs/3/apply",
            "base=0&to=valves&edit=%7B%22edit%22%3A%22remove-valve%22%2C%22id%22%3A%22v99%22%7D",
            "409",
        ),
        ("/jobs/3/water/s1/readings/77", "kind=static&pressure=60", "422"),
        ("/jobs/3/water/nope/pin", "school=pump", "409"),
        ("/jobs/3/water/s1/pin", "school=magic", "400"),
        ("/jobs/3/valves/v1/move", "to=v99&head=g1.0", "409"),
        ("/jobs/3/valves/v1/move", "to=v2&head=g1.4294967295", "409"),
        ("/jobs/3/heads/g1", "name=", "422"),
        ("/jobs/3/rules", "flow_margin=500", "422"),
        ("/jobs/3/undo", "", "400"),
        ("/jobs/404/undo", "", "404"),
    ];
    for (path, body, wanted) in edits {
        let answer = post(address, path, body, "").await;
        assert_eq!(
            status(&answer),
            wanted,
            "{path} {body}: {}",
            answer.split("\r\n\r\n").nth(1).unwrap_or_default()
        );
    }
}

#[sqlx::test(migrations = false)]
async fn a_stale_edit_is_refused_with_a_page_that_helps(pool: PgPool) {
    let address = serve(&pool).await;
    let reading = |base: i64, psi: u32| format!("base={base}&kind=static&pressure={psi}+psi");
    assert_eq!(
        status(&post(address, "/jobs/3/water/s1/readings/0", &reading(0, 60), "\r\nhx-request: true").await),
        "200"
    );
    let refused = post(address, "/jobs/3/water/s1/readings/0", &reading(0, 58), "\r\nhx-request: true").await;
    assert_eq!(status(&refused), "409");
    assert!(
        refused.contains("Someone else changed this") && refused.contains("Reload the page"),
        "{refused}"
    );
    let page = ask(address, "GET /jobs/3/water HTTP/1.1", "").await;
    assert!(page.contains("60 psi") && !page.contains("58 psi"), "neither lost nor half-saved");
}

#[sqlx::test(migrations = false)]
async fn a_job_is_deleted_only_by_somebody_who_is_sure(pool: PgPool) {
    let address = serve(&pool).await;
    for body in ["", "sure=", "sure=no", "sure=maybe"] {
        let asked = post(address, "/jobs/3/delete", body, "").await;
        assert_eq!(status(&asked), "200", "{body}");
        assert!(asked.contains("name=\"sure\""), "it asks again: {body}");
    }
    assert_eq!(status(&ask(address, "GET /jobs/3/details HTTP/1.1", "").await), "200");
    assert_eq!(status(&post(address, "/jobs/3/delete", "sure=yes", "").await), "303");
    let gone = ask(address, "GET /jobs/3/details HTTP/1.1", "").await;
    assert_eq!(status(&gone), "404");
    assert!(gone.contains("It may have been deleted"));
}

/// What a page says, without its tags and what they hold.
fn read_aloud(page: &str) -> String {
    let body = page.split_once("<main").map_or(page, |p| p.1);
    body.split('<').filter_map(|part| Some(part.split_once('>')?.1)).collect::<Vec<_>>().join(" ")
}

#[sqlx::test(migrations = false)]
async fn a_job_speaks_the_units_that_it_is_told_to_and_its_figures_stay(pool: PgPool) {
    let address = serve(&pool).await;
    let file = || async {
        let answer = ask(address, "GET /jobs/3/job.json HTTP/1.1", "").await;
        let text = answer.split_once("\r\n\r\n").unwrap().1.to_owned();
        text.replace("\"units\": \"metric-bar\"", "").replace("\"units\": \"metric\"", "")
    };
    let mut files = Vec::new();
    // 62.4 psi at the connection: 430 kPa, 4.30 bar.
    for (units, shown, not) in
        [("metric", "430 kPa", " psi"), ("metric-bar", "4.30 bar", " kPa"), ("us", "62.4 psi", " bar")]
    {
        let body = format!("name=Corner+plot&place=x&local_code=&units={units}");
        let saved = post(address, "/jobs/3/details", &body, "\r\nhx-request: true").await;
        assert!(saved.contains("hx-refresh: true"), "every figure changes: {saved}");
        for path in ["water", "heads", "catalogue", "valves", "pressure"] {
            let page = ask(address, &format!("GET /jobs/3/{path} HTTP/1.1"), "").await;
            let said = read_aloud(&page);
            assert!(path != "pressure" || said.contains(shown), "{units}: {shown} is not there");
            let at = said.find(not).map(|at| &said[at.saturating_sub(60)..at + 20]);
            assert!(at.is_none(), "{path} in {units} says {at:?}");
        }
        files.push(file().await);
    }
    assert_eq!(files[0], files[1]);
    // A number alone is read in the unit shown.
    let typed = post(address, "/jobs/3/details", "name=C&units=metric-bar", "").await;
    assert_eq!(status(&typed), "200");
    post(address, "/jobs/3/water/s1/readings/0", "kind=static&pressure=4", "").await;
    let water = ask(address, "GET /jobs/3/water HTTP/1.1", "").await;
    assert!(water.contains("4 bar"), "4 typed where bar is shown is 4 bar");
}

#[sqlx::test(migrations = false)]
async fn every_screen_of_the_table_answers_and_the_rail_leads_to_its_steps(pool: PgPool) {
    let address = serve(&pool).await;
    let paths = ["details", "water", "ground", "heads", "layout", "catalogue", "valves", "pressure"];
    for path in paths {
        let page = ask(address, &format!("GET /jobs/3/{path} HTTP/1.1"), "").await;
        assert_eq!(status(&page), "200", "{path}");
        for (key, step) in
            [("1", "water"), ("2", "ground"), ("3", "heads"), ("4", "valves"), ("5", "pressure")]
        {
            let link = format!("href=\"/jobs/3/{step}\" data-key=\"{key}\"");
            assert!(page.contains(&link), "{path} leads to {step}");
        }
        // Undo brings back the screen that it was pressed on.
        post(address, "/jobs/3/rules", "flow_margin=12", "").await;
        let undone = post(address, &format!("/jobs/3/undo?to={path}"), "", "").await;
        assert!(status(&undone) == "200" || status(&undone) == "400", "{path}");
    }
}
