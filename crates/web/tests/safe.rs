//! What anybody may send: other hosts, other sites, odd input, the same thing twice.

#![allow(clippy::unwrap_used, reason = "a test that can't go on fails")]

mod server;

use server::{ask, body, multipart, post, serve, status};
use sqlx::PgPool;

#[sqlx::test(migrations = false)]
async fn only_our_names_and_our_pages_are_answered(pool: PgPool) {
    let at = serve(&pool).await;
    let jobs = |answer: &str| body(answer).matches("class=\"job-row\"").count();
    let before = jobs(&ask(at, "GET / HTTP/1.1", "").await);
    // `ask` adds the right host: a second one makes two.
    let two = ask(at, "GET / HTTP/1.1\r\nhost: evil.example", "").await;
    assert_eq!(status(&two), "400");
    let raw = |text: String| async move {
        use tokio::io::{AsyncReadExt, AsyncWriteExt};
        let mut stream = tokio::net::TcpStream::connect(at).await.unwrap();
        stream.write_all(text.as_bytes()).await.unwrap();
        let mut answer = Vec::new();
        stream.read_to_end(&mut answer).await.unwrap();
        String::from_utf8_lossy(&answer).into_owned()
    };
    for (host, wanted) in [("evil.example", "421"), ("localhost:1", "200"), ("[::1]", "200")] {
        let answer = raw(format!("GET / HTTP/1.1\r\nhost: {host}\r\nconnection: close\r\n\r\n")).await;
        assert_eq!(status(&answer), wanted, "{host}");
    }
    let answer =
        raw("GET http://evil.example/ HTTP/1.1\r\nhost: localhost\r\nconnection: close\r\n\r\n".into()).await;
    assert_eq!(status(&answer), "400", "an address that says something else");

    // Changes: no header of ours, another origin, no origin at all.
    let form = "content-type: application/x-www-form-urlencoded";
    for (more, wanted) in [
        ("", "403"),
        ("\r\norigin: http://evil.example", "403"),
        ("\r\norigin: null", "403"),
        ("\r\nsec-fetch-site: cross-site", "403"),
        ("\r\nsec-fetch-site: same-site", "403"),
        ("\r\nhx-request: true\r\norigin: http://evil.example", "403"),
        ("\r\nx-fenlo: 1", "303"),
        ("\r\nsec-fetch-site: same-origin", "303"),
    ] {
        let answer = ask(at, &format!("POST /jobs HTTP/1.1\r\n{form}{more}"), "name=x&units=us").await;
        assert_eq!(status(&answer), wanted, "{more:?}");
    }
    assert_eq!(jobs(&ask(at, "GET / HTTP/1.1", "").await), before + 2);
}

#[sqlx::test(migrations = false)]
async fn the_same_form_twice_is_done_once(pool: PgPool) {
    let at = serve(&pool).await;
    let made = |key: &'static str| async move {
        let form = format!("name=Twice&units=us&key={key}");
        let answer = post(at, "/jobs", &form, "").await;
        let to = answer.lines().find(|l| l.to_lowercase().starts_with("location:"));
        to.unwrap().to_owned()
    };
    let first = made("0123456789abcdef").await;
    assert_eq!(made("0123456789abcdef").await, first, "one job");
    assert_ne!(made("another-key-1").await, first);

    let areas = || async move {
        let file = ask(at, "GET /jobs/3/job.json HTTP/1.1", "").await;
        let plan: serde_json::Value = serde_json::from_str(body(&file)).unwrap();
        (plan["groups"].as_array().unwrap().len(), plan["supplies"][0]["readings"].as_array().unwrap().len())
    };
    let (groups, readings) = areas().await;
    let new = "name=Long+bed&nozzle=spray-12&a360=4&spacing=12&pipe=class-200+3%2F4in&distance=20&key=form-key-0001";
    for _ in 0..2 {
        post(at, "/jobs/3/heads/new", new, "\r\nhx-request: true").await;
        let reading = "kind=static&pressure=61&key=form-key-0002";
        let answer = post(at, "/jobs/3/water/s1/readings/new", reading, "\r\nhx-request: true").await;
        assert_eq!(status(&answer), "200", "the second time as the first: {}", body(&answer));
    }
    let (g, r) = areas().await;
    assert_eq!(r, readings + 1, "one reading");
    assert!(g <= groups + 1, "one group");

    // Undo as well: a proxy that sends it again takes back nothing more.
    for _ in 0..2 {
        let answer = post(at, "/jobs/3/undo?to=water", "key=form-key-0003", "\r\nhx-request: true").await;
        assert_eq!(status(&answer), "200");
    }
    assert_eq!(areas().await.1, readings, "undone once");
    let answer = post(at, "/jobs/3/undo?to=water", "key=form-key-0004", "\r\nhx-request: true").await;
    assert_eq!(status(&answer), if g > groups { "200" } else { "400" });
}

#[sqlx::test(migrations = false)]
async fn odd_input_gets_our_own_page_and_the_right_status(pool: PgPool) {
    let at = serve(&pool).await;
    for (path, wanted, words) in [
        ("/jobs/word/water", "404", "Page not found"),
        ("/jobs/99999999999999999999/water", "404", "Page not found"),
        ("/jobs/9999/water", "404", "Page not found"),
        ("/jobs/9999/events", "404", "Page not found"),
        ("/?page=x", "400", "A value in the address is not valid"),
        ("/jobs/3/ground/changes?since=x", "400", "A value in the address is not valid"),
        ("/jobs/3/ground/changes", "400", "A value in the address is not valid"),
        ("/reading/nothing", "404", "Page not found"),
        ("/jobs/3/ground/import/77", "404", "Page not found"),
    ] {
        let answer = ask(at, &format!("GET {path} HTTP/1.1"), "").await;
        assert_eq!(status(&answer), wanted, "{path}: {}", body(&answer));
        assert!(body(&answer).contains(words), "{path}: {}", body(&answer));
        assert!(!body(&answer).contains("deserialize"), "no words of programmers: {path}");
    }
    // NUL in a field, in a name, in a gesture: said, nothing broken, nothing kept.
    let answer = post(at, "/jobs/3/details", "name=a%00b", "\r\nhx-request: true").await;
    assert_eq!(status(&answer), "422");
    assert!(body(&answer).contains("cannot be saved (NUL)"), "{}", body(&answer));
    let answer = post(at, "/jobs", "name=a%00b&units=us", "").await;
    assert_eq!(status(&answer), "400");
    assert!(body(&answer).contains("NUL"), "{}", body(&answer));
    let add = r#"{"do":"add","thing":{"id":"n1","what":{"is":"note","at":[1,1],"text":"a\u0000b"}}}"#;
    let answer = server::gesture(at, "3", 0, "key-nul-1", add).await;
    assert!(matches!(status(&answer), "400" | "422"), "{answer}");
    let json =
        ask(at, "POST /jobs/3/details HTTP/1.1\r\nhx-request: true\r\ncontent-type: application/json", "{}")
            .await;
    assert_eq!(status(&json), "415", "{json}");
    let missing = post(at, "/jobs", "units=us", "").await;
    assert_eq!(status(&missing), "422");
    assert!(body(&missing).contains("A field is missing"));
    let large = post(at, "/jobs", &format!("name={}", "x".repeat(300_000)), "").await;
    assert_eq!(status(&large), "413");
}

#[sqlx::test(migrations = false)]
async fn one_broken_job_harms_none(pool: PgPool) {
    let at = serve(&pool).await;
    let list = || ask(at, "GET / HTTP/1.1", "");
    assert!(!list().await.contains("annot"));
    // What the list keeps is written once hands rest; after that nobody writes it any more.
    let unwritten = "select count(*) from jobs where summary is null";
    while sqlx::query_scalar::<_, i64>(unwritten).fetch_one(&pool).await.unwrap() > 0 {
        tokio::time::sleep(std::time::Duration::from_millis(50)).await;
    }
    sqlx::raw_sql(
        "update snapshots set plan = '{\"nonsense\": true}' where job_id = 3;
         update jobs set summary = null where id = 3;
         update snapshots set format = 9 where job_id = 2; update jobs set summary = null where id = 2",
    )
    .execute(&pool)
    .await
    .unwrap();
    // Another server process, which has nothing in memory.
    let at = serve(&pool).await;
    let answer = ask(at, "GET / HTTP/1.1", "").await;
    assert_eq!(status(&answer), "200");
    assert_eq!(body(&answer).matches("Cannot open").count(), 2, "{}", body(&answer));
    assert_eq!(body(&answer).matches("class=\"job-row\" href").count(), 1, "the third as usual");
    let broken = ask(at, "GET /jobs/3/water HTTP/1.1", "").await;
    assert_eq!(status(&broken), "500");
    assert!(body(&broken).contains("Other jobs are not affected"), "{}", body(&broken));
    let newer = ask(at, "GET /jobs/2/water HTTP/1.1", "").await;
    assert!(body(&newer).contains("written by a newer Fenlo (format 9"), "{}", body(&newer));
    assert_eq!(status(&ask(at, "GET /jobs/1/water HTTP/1.1", "").await), "200");
}

#[sqlx::test(migrations = false)]
async fn who_watches_over_a_server_sees_what_it_does(pool: PgPool) {
    let at = serve(&pool).await;
    assert!(body(&ask(at, "GET /health HTTP/1.1", "").await) == "ok");
    assert!(body(&ask(at, "GET /ready HTTP/1.1", "").await) == "ready");
    post(at, "/jobs/3/water/s1/readings/new", "kind=static&pressure=61", "\r\nhx-request: true").await;
    let page = ask(at, "GET /jobs/3/water HTTP/1.1", "").await;
    let id = page.lines().find(|l| l.starts_with("x-request-id: ")).unwrap().to_owned();
    let next = ask(at, "GET /jobs/3/water HTTP/1.1", "").await;
    assert!(!next.contains(&id), "every request has its own number");
    let answer = ask(at, "GET /metrics HTTP/1.1", "").await;
    let text = body(&answer);
    for line in [
        "fenlo_requests_total{method=\"GET\",route=\"/jobs/{job}/water\",status=\"200\"} 2",
        "fenlo_edits_total 1",
        "fenlo_files_in_hand 0",
        "# EOF",
    ] {
        assert!(text.contains(line), "{line} in {text}");
    }
    // What stands in an address is no word for metrics: it may be a secret.
    ask(at, "GET /shared/a-token-that-is-secret HTTP/1.1", "").await;
    assert!(!ask(at, "GET /metrics HTTP/1.1", "").await.contains("a-token-that"));
}

/// Blocks in blocks, each a hundred by a hundred times.
fn blocks() -> String {
    let mut out = String::from("0\nSECTION\n2\nBLOCKS\n");
    let block = |name: &str, inside: &str| {
        format!("0\nBLOCK\n8\n0\n2\n{name}\n70\n0\n10\n0\n20\n0\n3\n{name}\n{inside}0\nENDBLK\n8\n0\n")
    };
    let insert =
        |name: &str| format!("0\nINSERT\n8\n0\n2\n{name}\n10\n0\n20\n0\n70\n100\n71\n100\n44\n1\n45\n1\n");
    let solid = "0\nSOLID\n8\n0\n10\n0\n20\n0\n11\n1\n21\n0\n12\n1\n22\n1\n13\n0\n23\n1\n";
    out += &block("B0", solid);
    for n in 1..8 {
        out += &block(&format!("B{n}"), &insert(&format!("B{}", n - 1)));
    }
    out + "0\nENDSEC\n0\nSECTION\n2\nENTITIES\n" + &insert("B7") + "0\nENDSEC\n0\nEOF\n"
}

/// A page of forms in forms: ten times ten, nine deep.
fn forms() -> Vec<u8> {
    let stream =
        |head: &str, body: &str| format!("<< {head} /Length {} >>\nstream\n{body}\nendstream", body.len());
    let ten = "/F Do ".repeat(10);
    let inside = |n: usize| format!("/Resources << /XObject << /F {n} 0 R >> >>");
    let form = "/Type /XObject /Subtype /Form /BBox [0 0 612 792]";
    let mut objects = vec![
        "<< /Type /Catalog /Pages 2 0 R >>".to_owned(),
        "<< /Type /Pages /Kids [3 0 R] /Count 1 >>".to_owned(),
        format!("<< /Type /Page /Parent 2 0 R /MediaBox [0 0 612 792] /Contents 4 0 R {} >>", inside(5)),
        stream("", &ten),
    ];
    for n in 6..15 {
        objects.push(stream(&format!("{form} {}", inside(n)), &ten));
    }
    objects.push(stream(form, "0 0 10 10 re f"));
    let mut out = b"%PDF-1.4\n".to_vec();
    let mut places = Vec::new();
    for (i, object) in objects.iter().enumerate() {
        places.push(out.len());
        out.extend(format!("{} 0 obj\n{object}\nendobj\n", i + 1).bytes());
    }
    let table = out.len();
    out.extend(format!("xref\n0 {}\n0000000000 65535 f \n", objects.len() + 1).bytes());
    for place in places {
        out.extend(format!("{place:010} 00000 n \n").bytes());
    }
    out.extend(
        format!("trailer\n<< /Size {} /Root 1 0 R >>\nstartxref\n{table}\n%%EOF\n", objects.len() + 1)
            .bytes(),
    );
    out
}

#[sqlx::test(migrations = false)]
async fn hostile_files_hold_neither_the_server_nor_its_pages(pool: PgPool) {
    let at = serve(&pool).await;
    let answer = multipart(at, "/jobs/3/ground/import", "blocks.dxf", blocks().as_bytes()).await;
    assert_eq!(status(&answer), "422", "{answer}");
    assert!(body(&answer).contains("with its blocks expanded"), "{}", body(&answer));

    // One that never ends: who sent it watches it on a page, and can stop it; pages come meanwhile.
    let answer = multipart(at, "/jobs/3/ground/picture", "forms.pdf", &forms()).await;
    assert_eq!(status(&answer), "303");
    let to = answer.lines().find_map(|l| l.strip_prefix("location: ")).unwrap().to_owned();
    assert!(to.starts_with("/reading/"), "{to}");
    let page = ask(at, &format!("GET {to} HTTP/1.1"), "").await;
    assert!(page.contains("forms.pdf") && page.contains("reading, "), "{page}");
    assert_eq!(status(&ask(at, "GET /jobs/3/water HTTP/1.1", "").await), "200");
    assert!(ask(at, "GET /metrics HTTP/1.1", "").await.contains("fenlo_files_in_hand 1"));
    post(at, &format!("{to}/stop"), "", "\r\nhx-request: true").await;
    let mut answer = String::new();
    for _ in 0..50 {
        answer = ask(at, &format!("GET {to}/state HTTP/1.1\r\nhx-request: true"), "").await;
        if !answer.contains("reading-state") {
            break;
        }
        tokio::time::sleep(std::time::Duration::from_millis(100)).await;
    }
    assert!(body(&answer).contains("Stopped") && body(&answer).contains("Nothing was saved"), "{answer}");
    assert!(ask(at, "GET /metrics HTTP/1.1", "").await.contains("fenlo_files_in_hand 0"));
}
