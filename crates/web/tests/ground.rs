//! What the server answers to gestures, drawings and pictures, well meant and otherwise.

#![allow(clippy::unwrap_used, reason = "a test that can't go on fails")]

mod server;

use server::{ask, body, gesture, multipart, post, serve, status};
use sqlx::PgPool;
use tokio::io::{AsyncReadExt, AsyncWriteExt};

const ADD: &str = r#"{"do":"add","thing":{"id":"t1","name":"Lawn <b>","what":{"is":"area","kind":"lawn",
    "shape":{"outline":[[0,0],[10,0],[10,10],[0,10]]}}}}"#;

#[sqlx::test(migrations = false)]
async fn a_gesture_answers_with_the_changed_part_alone(pool: PgPool) {
    let at = serve(&pool).await;
    let first = gesture(at, "1", 0, "a", ADD).await;
    assert_eq!(status(&first), "200");
    let answer: serde_json::Value = serde_json::from_str(body(&first)).unwrap();
    let parts = answer["changed"].as_array().unwrap();
    assert_eq!(
        (parts.len(), parts[0]["id"].as_str().unwrap(), answer["seq"].as_i64().unwrap()),
        (1, "t-t1", 1)
    );
    let svg = parts[0]["svg"].as_str().unwrap();
    assert!(svg.contains("Lawn &lt;b&gt;") && !svg.contains("Lawn <b>") && svg.contains("100 m²"), "{svg}");
    // The answer was lost, the gesture comes again: done once, and answered as before.
    let again = gesture(at, "1", 0, "a", ADD).await;
    assert_eq!((status(&again), body(&again).contains("\"seq\":1")), ("200", true));
    // With another key it is a second thing of the same name.
    assert_eq!(status(&gesture(at, "1", 1, "b", ADD).await), "422");
    let moved =
        gesture(at, "1", 1, "c", r#"{"do":"corner","id":"t1","ring":0,"index":2,"to":[12,10]}"#).await;
    assert!(body(&moved).contains("110 m²"), "{moved}");
    let crossed =
        gesture(at, "1", 2, "d", r#"{"do":"corner","id":"t1","ring":0,"index":2,"to":[-5,5]}"#).await;
    assert_eq!(status(&crossed), "422");
    assert!(body(&crossed).contains("the outline crosses or touches itself"), "{crossed}");
    // With the thing and the place: the edge from (-5, 5) crosses the left one at its middle.
    let why: serde_json::Value = serde_json::from_str(body(&crossed)).unwrap();
    assert_eq!(
        (why["about"].as_str(), why["place"][0].as_f64().unwrap().abs() < 0.02),
        (Some("t1"), true),
        "{why}"
    );
    let gone = ask(at, "GET /jobs/1/ground/changes?since=0 HTTP/1.1", "").await;
    assert!(body(&gone).contains("\"seq\":2"), "{gone}");
    // Left at number 0, somebody else's change of the same thing is not run over.
    let late = gesture(at, "1", 0, "e", r#"{"do":"remove","ids":["t1"]}"#).await;
    assert_eq!(status(&late), "409");
    // Gestures that waited were made at number 0, one on top of the other, though the board shows more by now.
    let waited = async |key: &str, own: &str, gesture: &str| {
        let json = format!(r#"{{"base":2,"made":0,"own":[{own}],"key":"{key}","gesture":{gesture}}}"#);
        let head = format!(
            "POST /jobs/1/ground/gesture HTTP/1.1\r\ncontent-type: application/json\r\norigin: http://{at}"
        );
        ask(at, &head, json).await
    };
    let add = ADD.replace("\"t1\"", "\"t8\"");
    assert_eq!(status(&waited("w1", "", &add).await), "200");
    let corner = r#"{"do":"corner","id":"t8","ring":0,"index":2,"to":[14,10]}"#;
    assert_eq!(status(&waited("w2", "", corner).await), "409", "not known to be its own");
    assert_eq!(status(&waited("w2", r#""w1""#, corner).await), "200");
    let many = vec![r#""x""#; 501].join(",");
    assert_eq!(status(&waited("w3", &many, corner).await), "422");
}

#[sqlx::test(migrations = false)]
async fn hostile_gestures_are_refused_in_words(pool: PgPool) {
    let at = serve(&pool).await;
    let outline = |points: &str| {
        format!(
            r#"{{"do":"add","thing":{{"id":"t1","what":{{"is":"area","kind":"lawn",
                "shape":{{"outline":{points}}}}}}}}}"#
        )
    };
    let many: String =
        (0..3000).map(|i| format!("[{},{}]", f64::from(i).cos() * 50.0, i)).collect::<Vec<_>>().join(",");
    for (what, wanted) in [
        ("nonsense".to_owned(), "400"),
        ("{}".to_owned(), "422"),
        (r#"{"do":"fly"}"#.to_owned(), "422"),
        (r#"{"do":"remove","ids":["x"],"more":1}"#.to_owned(), "422"),
        (outline("[[0,0],[1e12,0],[0,5]]"), "422"),
        (outline("[[0,0],[1,0]]"), "422"),
        (outline("[[0,0],[1,0,99],[1,1]]"), "422"),
        (outline("[[0,0],[1,0,0,0],[1,1]]"), "422"),
        (outline(r#"[["a",0],[1,0],[1,1]]"#), "422"),
        (outline(&format!("[{many}]")), "422"),
        (
            r#"{"do":"add","thing":{"id":"../x","what":{"is":"note","at":[0,0],"text":"x"}}}"#.to_owned(),
            "422",
        ),
        (r#"{"do":"add","thing":{"id":"n","what":{"is":"note","at":[0,0],"text":""}}}"#.to_owned(), "422"),
        (r#"{"do":"offset","id":"t1","distance":"nan m","new":"x"}"#.to_owned(), "422"),
        (
            r#"{"do":"set-head","id":"h","at":[0,0],"nozzle":"moon","group":"g","valve":null}"#.to_owned(),
            "422",
        ),
        (
            r#"{"do":"set-head","id":"h","at":[0,0],"nozzle":"spray-12","group":"g","valve":"v99"}"#
                .to_owned(),
            "422",
        ),
    ] {
        let answer = gesture(at, "1", 0, "k", &what).await;
        assert_eq!(status(&answer), wanted, "{what}: {}", body(&answer));
        assert!(body(&answer).contains("\"message\":\"") || wanted == "400", "{}", body(&answer));
    }
    assert_eq!(status(&gesture(at, "404", 0, "k", ADD).await), "404");
    let page = ask(at, "GET /jobs/1/ground HTTP/1.1", "").await;
    assert!(page.contains("data-seq=\"0\""), "nothing was half-saved");
    for path in [
        "/jobs/1/ground/sheet?ids=../../x,%00",
        "/jobs/1/ground/list?page=99999999999",
        "/jobs/1/ground/changes?since=-9223372036854775808",
        "/jobs/1/ground/tapes?ax=0&ay=0&a=1&bx=nan&by=0&b=1",
        "/jobs/1/ground/tapes?ax=0&ay=0&a=zwei&bx=1&by=0&b=1",
        "/jobs/1/ground/picture/nope",
        "/jobs/1/ground/import/77",
        "/jobs/3/valves/v1/head/g1.4294967295",
        "/jobs/3/ground/plan.dxf",
        "/jobs/2/ground/plan.svg",
        "/jobs/2/ground/plan.geojson",
    ] {
        let answer = ask(at, &format!("GET {path} HTTP/1.1"), "").await;
        assert!(
            status(&answer) < "500" && !answer.contains("NaN"),
            "{path}: {}",
            &answer[..300.min(answer.len())]
        );
    }
}

/// A PNG that says it is so large, with next to nothing in it.
fn bomb(side: u32) -> Vec<u8> {
    let mut png = b"\x89PNG\r\n\x1a\n".to_vec();
    let mut chunk = |name: &[u8; 4], data: &[u8]| {
        png.extend((data.len() as u32).to_be_bytes());
        let start = png.len();
        png.extend(name);
        png.extend(data);
        let crc = png[start..].iter().fold(!0u32, |crc, b| {
            (0..8).fold(crc ^ u32::from(*b), |c, _| if c & 1 == 1 { (c >> 1) ^ 0xedb8_8320 } else { c >> 1 })
        }) ^ !0;
        png.extend(crc.to_be_bytes());
    };
    let head: Vec<u8> =
        side.to_be_bytes().into_iter().chain(side.to_be_bytes()).chain([8, 6, 0, 0, 0]).collect();
    chunk(b"IHDR", &head);
    chunk(b"IDAT", &[0x78, 0x9c, 0x03, 0x00, 0x00, 0x00, 0x00, 0x01]);
    chunk(b"IEND", &[]);
    png
}

#[sqlx::test(migrations = false)]
async fn pictures_are_unpacked_within_limits_and_packed_anew(pool: PgPool) {
    let at = serve(&pool).await;
    let send =
        |bytes: Vec<u8>| async move { multipart(at, "/jobs/1/ground/picture", "scan.png", &bytes).await };
    for (bytes, words) in [
        (bomb(11_000), "at most 60 million are read"),
        (bomb(60_000), "at most 60 million are read"),
        (b"\x89PNG\r\n\x1a\nrubbish".to_vec(), "incomplete"),
        (b"<svg onload=alert(1)>".to_vec(), "no PNG, JPEG or PDF"),
        (b"%PDF-1.4 rubbish".to_vec(), "PDF"),
        (vec![0xff, 0xd8, 0xff, 0xe0], "The picture"),
        (Vec::new(), "hoose a picture first"),
    ] {
        let answer = send(bytes).await;
        let wanted = if words.starts_with("hoose") { "400" } else { "422" };
        assert_eq!(status(&answer), wanted, "{words}: {}", body(&answer));
        assert!(body(&answer).contains(words), "{words}: {}", body(&answer));
    }
    assert_eq!(status(&send(vec![b'x'; 13_000_000]).await), "400", "over the limit of a body");
    // A good one: kept, shown, scaled by two points.
    let scan = include_bytes!("scan.png").to_vec();
    assert_eq!(status(&send(scan).await), "303");
    let page = ask(at, "GET /jobs/1/ground HTTP/1.1", "").await;
    let href = page.split("<image href=\"").nth(1).and_then(|t| t.split('"').next()).unwrap();
    let shown = ask(at, &format!("GET {href} HTTP/1.1"), "").await;
    assert!(
        shown.contains("content-type: image/png") && shown.contains("x-content-type-options: nosniff"),
        "{}",
        &shown[..400.min(shown.len())]
    );
    let pdf = include_bytes!("page.pdf").to_vec();
    assert_eq!(status(&send(pdf).await), "303", "a page of a PDF");
    let set =
        |form: &'static str| async move { server::post(at, "/jobs/1/ground/picture/set", form, "").await };
    assert_eq!(status(&set("ax=0&ay=0&bx=10&by=0&apart=20+m").await), "200");
    assert!(body(&set("ax=0&ay=0&bx=0&by=0&apart=20+m").await).contains("two separate points"));
    assert!(body(&set("ax=0&ay=0&bx=1&by=0&apart=much").await).contains("message"));
    assert_eq!(status(&set("strength=7").await), "422");
    assert_eq!(status(&set("remove=yes").await), "200");
}

#[sqlx::test(migrations = false)]
async fn a_drawing_comes_in_whole_or_not_at_all(pool: PgPool) {
    let at = serve(&pool).await;
    let send = |name: &'static str, bytes: Vec<u8>| async move {
        multipart(at, "/jobs/1/ground/import", name, &bytes).await
    };
    assert_eq!(status(&send("x.dxf", b"rubbish".to_vec()).await), "422");
    assert_eq!(status(&send("x.geojson", b"{".to_vec()).await), "422");
    assert_eq!(status(&send("x.dxf", Vec::new()).await), "400");
    let json = r#"{"type":"FeatureCollection","features":[{"type":"Feature","properties":{"kind":"lawn",
        "name":"North"},"geometry":{"type":"Polygon","coordinates":[[[0,0],[40,0],[40,20],[0,20],
        [0,0]]]}},{"type":"Feature","properties":{"kind":"oddity"},"geometry":{"type":"LineString",
        "coordinates":[[0,0],[500,1]]}}]}"#;
    let sent = send("plot.geojson", json.as_bytes().to_vec()).await;
    let path = sent.lines().find_map(|l| l.strip_prefix("location: ")).unwrap().trim().to_owned();
    let page = ask(at, &format!("GET {path} HTTP/1.1"), "").await;
    assert!(page.contains("1 outline") && page.contains("1 line") && page.contains("oddity"), "{page}");
    let take = |form: &'static str| {
        let path = path.clone();
        async move { server::post(at, &path, form, "").await }
    };
    let unsaid = take("unit=&layer0=area:lawn&layer1=skip").await;
    assert_eq!(status(&unsaid), "422");
    assert!(unsaid.contains("Choose the drawing unit"));
    assert!(take("unit=1&layer0=area:lawn").await.contains("Choose what layer"));
    assert!(take("unit=1&layer0=skip&layer1=skip").await.contains("Nothing to import"));
    assert!(take("unit=1&layer0=area:moon&layer1=skip").await.contains("Choose what layer"));
    assert_eq!(status(&take("unit=1&layer0=area:lawn&layer1=skip").await), "303");
    let board = ask(at, "GET /jobs/1/ground HTTP/1.1", "").await;
    assert!(board.contains("North, 800 m²"), "one lawn of 40 by 20 m");
    assert_eq!(status(&take("unit=1&layer0=area:lawn&layer1=skip").await), "404", "imported once");
}

#[sqlx::test(migrations = false)]
async fn the_water_map_is_computed_and_hostile_asking_is_answered(pool: PgPool) {
    let at = serve(&pool).await;
    gesture(at, "1", 0, "a", ADD).await;
    let set = gesture(
        at,
        "1",
        1,
        "b",
        r#"{"do":"set-head","id":"h1","at":[5,5],"nozzle":"spray-15","group":"gx","valve":null}"#,
    )
    .await;
    assert_eq!(status(&set), "200", "{}", body(&set));
    let seen = ask(at, "GET /jobs/1/ground/coverage?area=t1&wind=0&from= HTTP/1.1", "").await;
    assert_eq!(status(&seen), "200");
    let map: serde_json::Value = serde_json::from_str(body(&seen)).unwrap();
    assert!(
        map["map"].as_str().unwrap().contains("class=\"driest\"")
            && map["panel"].as_str().unwrap().contains("1 head at rated pressure"),
        "{map}"
    );
    // Tried, not done: the map moves, the job does not.
    let tried = r#"{"asked":{"area":"t1","wind":0,"from":""},"gesture":{"do":"move","ids":["h1"],
        "motion":{"shift":{"by":[3,0]}}}}"#;
    let request = "POST /jobs/1/ground/coverage HTTP/1.1\r\nx-fenlo: 1\r\ncontent-type: application/json";
    let moved = ask(at, request, tried).await;
    assert!(status(&moved) == "200" && body(&moved).contains("preview"), "{moved}");
    assert!(body(&ask(at, "GET /jobs/1/ground/changes?since=0 HTTP/1.1", "").await).contains("\"seq\":2"));
    for bad in ["{}", r#"{"asked":{"area":"t1"},"gesture":{"do":"fly"}}"#] {
        assert!(status(&ask(at, request, bad).await).starts_with('4'), "{bad}");
    }
    for path in [
        "coverage?area=nobody&wind=1e99&from=%3Cscript%3E",
        "coverage",
        "coverage/findings?area=t1",
        "coverage/findings?area=nobody",
    ] {
        let answer = ask(at, &format!("GET /jobs/1/ground/{path} HTTP/1.1"), "").await;
        assert!(status(&answer) == "200" && !answer.contains("<script>"), "{path}: {answer}");
    }
    let found = ask(at, "GET /jobs/1/ground/coverage/findings?area=t1 HTTP/1.1", "").await;
    assert!(
        body(&found).contains("Part of the area gets no water")
            && body(&found).contains("Redo layout with spray"),
        "{found}"
    );
}

#[sqlx::test(migrations = false)]
async fn a_long_comparison_says_how_far_it_is_and_stops_when_asked(pool: PgPool) {
    let at = serve(&pool).await;
    let park = r#"{"do":"add","thing":{"id":"park","what":{"is":"area","kind":"lawn",
        "shape":{"outline":[[0,0],[180,0],[180,150],[0,150]]}}}}"#;
    assert_eq!(status(&gesture(at, "1", 0, "a", park).await), "200");
    let begun = post(at, "/jobs/1/layout/run", "area=", "").await;
    assert!(
        status(&begun) == "200"
            && body(&begun).contains("Comparing layouts: ")
            && body(&begun).contains("of 6"),
        "{begun}"
    );
    assert_eq!(status(&post(at, "/jobs/1/layout/stop", "", "").await), "204");
    // It ends soon, and what it did not get to says so; nothing was laid out.
    let mut last = String::new();
    for _ in 0..100 {
        last = ask(at, "GET /jobs/1/layout/progress HTTP/1.1", "").await;
        if !body(&last).contains("<progress") {
            break;
        }
        tokio::time::sleep(std::time::Duration::from_millis(100)).await;
    }
    assert!(body(&last).contains("Stopped. Areas not yet compared"), "{last}");
    assert!(status(&post(at, "/jobs/1/layout/use", "area=park&kind=spray", "").await).starts_with('4'));
    assert!(status(&post(at, "/jobs/1/layout/use", "area=park&kind=cannon", "").await).starts_with('4'));
    // Ground that changed since is not laid out by what was compared before.
    let lawn = r#"{"do":"add","thing":{"id":"lawn","what":{"is":"area","kind":"lawn",
        "shape":{"outline":[[200,0],[206,0],[206,6],[200,6]]}}}}"#;
    assert_eq!(status(&gesture(at, "1", 1, "b", lawn).await), "200");
    post(at, "/jobs/1/layout/run", "area=lawn", "").await;
    for _ in 0..100 {
        last = ask(at, "GET /jobs/1/layout/progress HTTP/1.1", "").await;
        if body(&last).contains(">Apply<") {
            break;
        }
        tokio::time::sleep(std::time::Duration::from_millis(100)).await;
    }
    // Once all are found each way is held against one of them; against itself none is.
    for _ in 0..200 {
        if !body(&last).contains("<progress") {
            break;
        }
        tokio::time::sleep(std::time::Duration::from_millis(100)).await;
        last = ask(at, "GET /jobs/1/layout/progress HTTP/1.1", "").await;
    }
    let page = body(&last);
    assert!(page.contains("Others are compared with "), "{page}");
    assert!(page.matches("<b>Against ").count() < page.matches("<h3>").count(), "{page}");
    assert!(
        page.contains("less per year") || page.contains("more per year") || page.contains("same water use")
    );
    assert_eq!(
        status(
            &gesture(at, "1", 2, "c", r#"{"do":"corner","id":"lawn","ring":0,"index":2,"to":[207,7]}"#).await
        ),
        "200"
    );
    assert_eq!(status(&post(at, "/jobs/1/layout/use", "area=lawn&kind=spray", "").await), "409");
}

#[sqlx::test(migrations = false)]
async fn charts_are_looked_at_saved_and_given_back(pool: PgPool) {
    let at = serve(&pool).await;
    let chart = "chart=name%2Ckind%2Cpressure+psi%2Cradius+ft%2Cflow+gpm%0A%3Cb%3EOurs%2Cspray%2C30%2C12%2C2.4%0ABad%2Cspray%2C-1%2C12%2C2.4&kind=";
    let seen = post(at, "/jobs/1/catalogue/preview", chart, "").await;
    assert!(
        body(&seen).contains("&#60;b&#62;Ours")
            && body(&seen).contains("pressure is ‘-1’")
            && !body(&seen).contains("<b>Ours"),
        "{seen}"
    );
    assert!(
        !body(&ask(at, "GET /jobs/1/catalogue.csv HTTP/1.1", "").await).contains("Ours"),
        "nothing is saved by looking"
    );
    assert_eq!(status(&post(at, "/jobs/1/catalogue/save", chart, "").await), "200");
    let csv = ask(at, "GET /jobs/1/catalogue.csv HTTP/1.1", "").await;
    assert!(body(&csv).contains("<b>Ours,spray,30,360,12,2.4,") && csv.contains("attachment"), "{csv}");
    assert!(!body(&csv).contains("Bad"), "rows with faults stay out");
    for (path, form) in [
        ("save", "chart=&kind="),
        ("remove", "id=nobody"),
        ("add", "name=&kind=spray&pressure=-4+psi&arc=9999&radius=0&flow=x&price=much"),
    ] {
        assert!(
            status(&post(at, &format!("/jobs/1/catalogue/{path}"), form, "").await).starts_with('4'),
            "{path}"
        );
    }
    assert_eq!(status(&post(at, "/jobs/1/catalogue/truck", "id=spray-15&on=yes", "").await), "200");
    assert!(body(&ask(at, "GET /jobs/1/catalogue HTTP/1.1", "").await).contains("checked"));
    assert_eq!(status(&ask(at, "GET /jobs/1/catalogue/nozzle?nozzle=none HTTP/1.1", "").await), "404");
}

#[sqlx::test(migrations = false)]
async fn a_board_that_listens_is_greeted_in_a_way_that_browsers_hear(pool: PgPool) {
    let at = serve(&pool).await;
    let mut stream = tokio::net::TcpStream::connect(at).await.unwrap();
    let ask = format!("GET /jobs/1/events HTTP/1.1\r\nhost: {at}\r\n\r\n");
    stream.write_all(ask.as_bytes()).await.unwrap();
    let mut heard = String::new();
    let greeting = async {
        let mut bytes = [0; 4096];
        while !heard.contains("event: hello") || !heard.ends_with("\n\n\r\n") {
            let n = stream.read(&mut bytes).await.unwrap();
            assert!(n > 0, "the stream ended: {heard}");
            heard.push_str(std::str::from_utf8(&bytes[..n]).unwrap());
        }
    };
    let patience = std::time::Duration::from_secs(10);
    tokio::time::timeout(patience, greeting).await.expect("a greeting");
    // An event without data is thrown away by browsers, and a board would not know that it may have
    // missed something.
    let (_, event) = heard.split_once("event: hello").unwrap();
    assert!(event.trim_start().starts_with("data: "), "{heard}");
}
