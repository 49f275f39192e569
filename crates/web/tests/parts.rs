//! Parts, prices, quotes, links and documents over HTTP.

#![allow(clippy::unwrap_used, reason = "a test that can't go on fails")]

mod server;

use serde_json::Value;
use server::{ask, body, post, serve, status};
use sqlx::PgPool;
use std::net::SocketAddr;

async fn get(at: SocketAddr, path: &str) -> String {
    ask(at, &format!("GET {path} HTTP/1.1"), "").await
}
async fn page(at: SocketAddr, path: &str) -> String {
    let answer = get(at, path).await;
    assert_eq!(status(&answer), "200", "{path}: {}", body(&answer));
    body(&answer).to_owned()
}
async fn send(at: SocketAddr, path: &str, form: &str) -> String {
    post(at, path, form, "\r\nhx-request: true").await
}
async fn parts_of(at: SocketAddr) -> Value {
    let plan: Value = serde_json::from_str(&page(at, "/jobs/3/job.json").await).unwrap();
    plan["parts"].clone()
}
/// A file as a form with one field sends it.
async fn upload(at: SocketAddr, path: &str, name: &str, text: &str) -> String {
    let form = format!(
        "--x\r\nContent-Disposition: form-data; name=\"file\"; filename=\"{name}\"\r\n\r\n{text}\r\n--x--\r\n"
    );
    let request = format!(
        "POST {path} HTTP/1.1\r\nhx-request: true\r\norigin: http://{at}\r\ncontent-type: \
            multipart/form-data; boundary=x"
    );
    ask(at, &request, &form).await
}

const BOOK: &str = "number,part,supplier,price,pack,carriage,free from,currency\n\
    B1,body-4in,North,4.10,1,12,49,USD\nB1,body-4in,South,3.90,10,,,USD\n";

/// Takes a book over as a hand would: looks at it, then takes it.
async fn take(at: SocketAddr, text: &str) -> String {
    let look = upload(at, "/prices/look", "book.csv", text).await;
    assert_eq!(status(&look), "200", "{}", body(&look));
    let key = body(&look).split("name=\"key\" value=\"").nth(1).unwrap_or_default();
    let key: String = key.chars().take_while(char::is_ascii_digit).collect();
    post(at, "/prices/take", &format!("key={key}&how=beside"), "").await
}

#[sqlx::test(migrations = false)]
async fn a_quantity_is_said_by_hand_kept_and_taken_back(pool: PgPool) {
    let at = serve(&pool).await;
    let first = page(at, "/jobs/3/parts").await;
    assert!(first.contains("Pop-up body") && first.contains("one at each branch"), "{first:.500}");
    let answer = send(at, "/jobs/3/parts/line", "part=body-4in&quantity=99&note=two+on+the+truck").await;
    assert_eq!(status(&answer), "200", "{}", body(&answer));
    assert!(answer.contains("by hand"));
    assert_eq!(parts_of(at).await["lines"][0]["quantity"], 99.0);
    let answer = send(at, "/jobs/3/parts/line", "part=body-4in&quantity=&note=").await;
    assert_eq!(status(&answer), "200");
    assert_eq!(parts_of(at).await, Value::Null, "as counted again");
    for (form, says) in [
        ("part=nothing-like-it&quantity=3", "no longer counts"),
        ("part=body-4in&quantity=many", "number"),
        ("part=body-4in&quantity=-3", "from 0"),
        ("part=body-4in&quantity=", "enter the quantity"),
    ] {
        let answer = send(at, "/jobs/3/parts/line", form).await;
        assert!(["400", "422"].contains(&status(&answer)), "{form}");
        assert!(body(&answer).to_lowercase().contains(says), "{form}: {}", body(&answer));
        assert_eq!(parts_of(at).await, Value::Null);
    }
}

#[sqlx::test(migrations = false)]
async fn a_line_of_ones_own_is_added_and_taken_away(pool: PgPool) {
    let at = serve(&pool).await;
    let answer = send(at, "/jobs/3/parts/own", "quantity=2&text=%3Cb%3ESign&unit=each").await;
    assert_eq!(status(&answer), "200", "{}", body(&answer));
    assert!(answer.contains("&#60;b&#62;Sign") && !answer.contains("<b>Sign"), "escaped");
    let answer = send(at, "/jobs/3/parts/own", "quantity=&text=&unit=").await;
    assert_eq!(status(&answer), "422");
    for field in ["quantity", "text"] {
        assert!(answer.contains(&format!("err-own-{field}")), "{field}");
    }
    let answer = send(at, "/jobs/3/parts/own", "remove=l1").await;
    assert_eq!(status(&answer), "200");
    assert_eq!(parts_of(at).await, Value::Null);
}

#[sqlx::test(migrations = false)]
async fn prices_are_looked_at_taken_over_and_show_where_it_costs_least(pool: PgPool) {
    let at = serve(&pool).await;
    assert!(page(at, "/jobs/3/parts/money").await.contains("No prices for these parts"));
    let faulty = upload(at, "/prices/look", "b.csv", "number,supplier,price\nA,North,-2\n").await;
    assert!(body(&faulty).contains("line 2") && !body(&faulty).contains("Import prices"));
    assert_eq!(status(&take(at, BOOK).await), "303");
    let money = page(at, "/jobs/3/parts/money").await;
    assert!(money.contains("North") && money.contains("South"));
    assert!(money.contains("No price (not included"), "what nobody sells is named");
    assert!(page(at, "/prices?search=b1").await.contains("pack of 10"));
    // Another currency is refused whole.
    let euros = BOOK.replace("USD", "EUR");
    let refused = take(at, &euros).await;
    assert_eq!(status(&refused), "400");
    assert!(body(&refused).contains("one currency"));
    // A key that was never given.
    assert_eq!(status(&post(at, "/prices/take", "key=999999", "").await), "400");
    let number = send(at, "/jobs/3/parts/number", "part=valve-1in&number=B1").await;
    assert_eq!(status(&number), "200");
}

#[sqlx::test(migrations = false)]
async fn a_quote_is_kept_compared_accepted_and_shown_by_a_link(pool: PgPool) {
    let at = serve(&pool).await;
    take(at, BOOK).await;
    let now = page(at, "/jobs/3/quote/now").await;
    assert!(now.contains("Total") && now.contains("have no price"), "{now}");
    assert!(page(at, "/jobs/3/quote/now?by=zone").await.contains("Zone 1:"));
    let kept = send(at, "/jobs/3/quote/keep", "by=work&note=first").await;
    assert_eq!(status(&kept), "200", "{}", body(&kept));
    assert!(kept.contains("Version 1") && kept.contains("first"));
    send(at, "/jobs/3/parts/line", "part=body-4in&quantity=99&note=").await;
    let kept = send(at, "/jobs/3/quote/keep", "by=work&note=").await;
    assert!(kept.contains("Changes from version 1") && kept.contains("(was "), "{kept}");
    // Side by side, as a choice for the customer; one alone or one that is not there is none.
    let offered = page(at, "/jobs/3/quote/options?version=2&version=1").await;
    assert!(
        offered.contains("Version 1") && offered.contains("lowest price") && offered.contains("versions=1,2"),
        "{offered}"
    );
    for (query, says) in [
        ("version=1", "two to four"),
        ("version=1&version=9", "Version 9 does not exist"),
        ("", "two to four"),
    ] {
        let refused = get(at, &format!("/jobs/3/quote/options?{query}")).await;
        assert!(status(&refused) == "400" && refused.contains(says), "{query}: {refused}");
    }
    let accepted = send(at, "/jobs/3/quote/accept", "version=1").await;
    assert!(accepted.contains("prices locked"));
    let linked = send(at, "/jobs/3/quote/share", "what=quote&version=1&until=2020-01-01").await;
    assert_eq!(status(&linked), "400", "no link into the past");
    let soon = chrono_like_today();
    let linked = send(at, "/jobs/3/quote/share", &format!("what=quote&version=1&until={soon}")).await;
    let key = body(&linked).split("name=\"key\" value=\"").nth(1).unwrap();
    assert_eq!(key.split('"').next().unwrap().len(), 32, "the page's own key");
    let path = body(&linked).split("value=\"/shared/").nth(1).unwrap();
    let token = path.split('"').next().unwrap().to_owned();
    let shown = get(at, &format!("/shared/{token}")).await;
    assert_eq!(status(&shown), "200");
    assert!(shown.contains("Quote dated") && !shown.contains("North"), "no suppliers");
    assert!(shown.to_lowercase().contains("cache-control: no-store"));
    assert_eq!(status(&get(at, &format!("/shared/{token}/plan.svg")).await), "200");
    // It shows and changes nothing, and leads nowhere else.
    assert_eq!(status(&post(at, &format!("/shared/{token}"), "a=1", "").await), "405");
    let name = body(&linked).split("\"name\": \"").nth(1).unwrap();
    let name = name.split('"').next().unwrap();
    send(at, "/jobs/3/quote/end", &format!("name={name}")).await;
    assert_eq!(status(&get(at, &format!("/shared/{token}")).await), "404");
    for wrong in ["x", &"0".repeat(64), "..%2F..%2Fjobs"] {
        assert_eq!(status(&get(at, &format!("/shared/{wrong}")).await), "404", "{wrong}");
    }
}

/// A day some weeks from now, by this machine's clock.
fn chrono_like_today() -> String {
    let since = std::time::SystemTime::now().duration_since(std::time::UNIX_EPOCH).unwrap();
    fenlo_core::plan::Date::after_1970(since.as_secs()).days_later(20).to_string()
}

#[sqlx::test(migrations = false)]
async fn rules_of_quotes_are_kept_and_impossible_ones_refused_at_their_fields(pool: PgPool) {
    let at = serve(&pool).await;
    let good = "currency=eur&hour=55&overhead=10&margin=20&tax=7.7&round_to=5&valid_days=14&waste=8&head=0.3&valve=1&tube_ft=0.01&emitter=0.05&controller=2&connection=3&crossing=1&lawn_rise=6+in&bed_rise=12+in&stakes=3+ft&digging=hand&swing_joints=yes";
    let answer = send(at, "/jobs/3/quote/rules", good).await;
    assert_eq!(status(&answer), "200", "{}", body(&answer));
    let plan: Value = serde_json::from_str(&page(at, "/jobs/3/job.json").await).unwrap();
    let buying = &plan["rules"]["buying"];
    assert_eq!((&buying["currency"], &buying["waste"]), (&"EUR".into(), &Value::from(0.08)));
    assert_eq!(buying["hours"]["machine"], false);
    for (was, now, field) in [
        ("margin=20", "margin=100", "margin"),
        ("currency=eur", "currency=gold", "currency"),
        ("waste=8", "waste=90", "waste"),
        ("stakes=3+ft", "stakes=0", "stakes"),
        ("hour=55", "hour=-1", "hour"),
    ] {
        let answer = send(at, "/jobs/3/quote/rules", &good.replace(was, now)).await;
        assert_eq!(status(&answer), "422", "{now}");
        let line = format!("id=\"err-quote-{field}\" hx-swap-oob=\"innerHTML\">");
        let said = answer.split(&line).nth(1).unwrap_or_default();
        assert!(!said.starts_with("</div>") && !said.is_empty(), "{field}: {answer}");
    }
}

#[sqlx::test(migrations = false)]
async fn lists_go_out_as_csv_and_workbook_and_odd_wishes_for_documents_are_refused(pool: PgPool) {
    let at = serve(&pool).await;
    assert!(page(at, "/jobs/3/parts.csv").await.starts_with("section,part,text"));
    for path in ["/jobs/3/parts.xlsx", "/jobs/3/quote.xlsx", "/prices.csv", "/prices.xlsx"] {
        assert_eq!(status(&get(at, path).await), "200", "{path}");
    }
    assert_eq!(status(&get(at, "/jobs/3/papers/packet.pdf?lang=xx").await), "400");
    assert_eq!(status(&get(at, "/jobs/3/papers/packet.pdf?paper=a9").await), "400");
    assert_eq!(status(&get(at, "/jobs/3/papers/quote.pdf?version=9").await), "404");
    assert_eq!(status(&get(at, "/jobs/99/parts").await), "404");
}

#[sqlx::test(migrations = false)]
async fn a_delivery_is_ticked_off_and_the_next_job_is_offered_what_is_left_over(pool: PgPool) {
    let at = serve(&pool).await;
    let again = post(at, "/jobs/3/copy", "", "").await;
    let copy = again.split("/jobs/").nth(1).unwrap().split('/').next().unwrap().to_owned();
    let goods = async |job: &str| page(at, &format!("/jobs/{job}/parts/goods")).await;
    let tell = async |job: &str, form: &str| {
        let answer = send(at, &format!("/jobs/{job}/parts/goods"), form).await;
        assert_eq!(status(&answer), "200", "{}", body(&answer));
        answer
    };
    let begin = goods("3").await;
    assert!(begin.contains("0 of ") && !begin.contains("from stock"), "{begin:.600}");
    let first = begin.split("name=\"part\"").nth(1).unwrap();
    let part = first.split('"').nth(1).unwrap().to_owned();
    // A thousand have come: the plan wants fewer, and the rest goes into stock; sent again it stays as it is.
    let more = tell("3", &format!("part={part}&do=arrived&arrived=1000")).await;
    assert!(more.contains("hx-trigger: goods-changed") && more.contains(">Return "), "{more:.900}");
    let kept = tell("3", &format!("part={part}&do=keep")).await;
    assert!(kept.contains("returned to stock") && !kept.contains(">Return "));
    assert_eq!(body(&tell("3", &format!("part={part}&do=keep")).await), body(&kept));
    assert!(page(at, "/prices").await.contains("In stock"));
    // The next job is offered it, and then orders none.
    take(at, &format!("number,part,supplier,price,currency\nT1,{part},North,5.00,USD\n")).await;
    let before = page(at, &format!("/jobs/{copy}/parts/money")).await;
    assert!(before.contains("North"), "{before:.600}");
    let offered = goods(&copy).await;
    assert!(offered.contains("Your stock covers part of 1 line"), "{offered:.600}");
    let taken = tell(&copy, &format!("part={part}&do=take")).await;
    let taken = body(&taken).split_whitespace().collect::<Vec<_>>().join(" ");
    assert!(taken.contains("from stock</span>") && taken.contains("1 of "), "{taken:.900}");
    assert!(!page(at, &format!("/jobs/{copy}/parts/money")).await.contains("North"));
    // What can't be is said, and nothing changes.
    let wrong = tell("3", &format!("part={part}&do=arrived&arrived=lots")).await;
    assert!(wrong.contains("enter 0 to"), "{wrong:.600}");
    assert_eq!(status(&send(at, "/jobs/3/parts/goods", "part=x&do=all").await), "400");
    assert_eq!(status(&post(at, "/prices/stock", &format!("part={part}&quantity=-1"), "").await), "400");
    assert_eq!(status(&post(at, "/prices/stock", &format!("part={part}&quantity=0"), "").await), "303");
    assert!(!page(at, "/prices").await.contains("In stock"));
}

#[sqlx::test(migrations = false)]
async fn a_kit_is_kept_held_against_its_parts_and_taken_away(pool: PgPool) {
    let at = serve(&pool).await;
    take(at, BOOK).await;
    let keep = async |form: &str| post(at, "/prices/kit", form, "").await;
    assert_eq!(status(&keep("number=K7&text=Body+kit&parts=2+B1").await), "303");
    assert!(page(at, "/prices").await.contains("2 B1"));
    let money = async || page(at, "/jobs/3/parts/money").await;
    assert!(money().await.contains("Body kit (K7) would fit, but has no price"));
    let priced = "number=K7&text=Body+kit&supplier=North&price=7.00";
    assert_eq!(status(&post(at, "/prices/put", priced, "").await), "303");
    // 3.90 each: two cost 7.80.
    let offered = money().await;
    assert!(offered.contains("Body kit (K7): ") && offered.contains(": saves "), "{offered:.2000}");
    let wrong = keep("number=K8&text=&parts=B1").await;
    assert_eq!(status(&wrong), "400");
    assert!(wrong.contains("enter quantity and item number"), "{wrong}");
    assert_eq!(status(&keep("remove=K7").await), "303");
    assert!(!money().await.contains("Kits compared"));
}

/// What stands where a document is waited for, once it no longer asks again.
async fn waited_for(at: SocketAddr, first: String) -> String {
    let mut shown = first;
    for _ in 0..200 {
        let Some(next) = shown.split("hx-get=\"").nth(1).and_then(|s| s.split('"').next()) else {
            return shown;
        };
        tokio::time::sleep(std::time::Duration::from_millis(100)).await;
        shown = page(at, next).await;
    }
    panic!("it is never made: {shown}")
}

#[sqlx::test(migrations = false)]
async fn a_document_is_waited_for_with_its_steps_and_fetched_or_stopped(pool: PgPool) {
    let at = serve(&pool).await;
    let begun = page(at, "/jobs/3/papers/make/packet?lang=es&paper=a4").await;
    if begun.contains("Documents are not available yet") {
        // Built without the helper: that is said at once, in the place of the bar.
        assert!(!begun.contains("hx-get"));
        return;
    }
    let made = waited_for(at, begun).await;
    let link = made.split("href=\"").nth(1).and_then(|s| s.split('"').next()).expect("a link");
    assert!(made.contains("Crew packet, ") && made.contains("kB"), "{made}");
    let file = get(at, link).await;
    assert!(file.contains("application/pdf") && file.contains("%PDF"), "{file:.300}");
    // Stopped: there is no file, and it says so; another that is not there any more is asked for again.
    let begun = page(at, "/jobs/3/papers/make/plan?paper=a1").await;
    let key: String = begun
        .split("/papers/made/")
        .nth(1)
        .expect("a key")
        .chars()
        .take_while(char::is_ascii_digit)
        .collect();
    let stop = send(at, &format!("/jobs/3/papers/made/{key}/stop"), "").await;
    assert_eq!(status(&stop), "204");
    let after = waited_for(at, page(at, &format!("/jobs/3/papers/made/{key}")).await).await;
    assert!(
        after.contains("stopped") || begun.contains("data-fetch") || after.contains("data-fetch"),
        "{after}"
    );
    assert_eq!(status(&get(at, "/jobs/3/papers/made/99999").await), "400");
    assert_eq!(status(&get(at, "/jobs/3/papers/make/packet?lang=xx").await), "400");
    assert_eq!(status(&get(at, "/jobs/3/papers/make/novel").await), "404");
}
