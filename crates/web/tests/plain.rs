//! Every page with its figures in place: counts agree with their nouns, a minus is a minus, an amount has its
//! currency. The demo jobs, and a job with one head on one valve, which is where plurals go wrong.

#![allow(clippy::unwrap_used, reason = "a test that can't go on fails")]

#[path = "../../words/tests/plain/mod.rs"]
mod plain;
mod server;

use plain::{bare_amount, unplain};
use server::{ask, body, multipart, post, serve, status};
use sqlx::PgPool;

const PAGES: [&str; 17] = [
    "water",
    "ground",
    "heads",
    "valves",
    "pressure",
    "times",
    "times/sheet",
    "parts",
    "parts/money",
    "parts/goods",
    "quote",
    "quote/now",
    "details",
    "layout",
    "catalogue",
    "assembly",
    "ground/coverage/findings",
];

/// What is read of a page: its texts as blocks part them, and the labels of its fields and buttons.
fn texts(page: &str) -> Vec<String> {
    const WITHIN_A_LINE: [&str; 9] = ["b", "i", "em", "a", "kbd", "span", "strong", "sup", "sub"];
    const NOT_READ: [&str; 3] = ["script", "style", "svg"];
    let mut out = Vec::new();
    let mut line = String::new();
    let mut rest = page;
    while let Some(open) = rest.find('<') {
        line.push_str(&rest[..open]);
        let end = tag_end(&rest[open..]).map_or(rest.len(), |e| open + e);
        let tag = &rest[open + 1..end];
        let name: String =
            tag.trim_start_matches('/').chars().take_while(char::is_ascii_alphanumeric).collect();
        if !WITHIN_A_LINE.contains(&name.as_str()) {
            out.push(std::mem::take(&mut line));
        }
        for label in ["aria-label=\"", "title=\"", "placeholder=\""] {
            let said = tag.split_once(label).and_then(|t| t.1.split('"').next());
            out.extend(said.map(str::to_owned));
        }
        rest = rest.get(end + 1..).unwrap_or_default();
        if NOT_READ.contains(&name.as_str()) && !tag.starts_with('/') {
            let close = format!("</{name}>");
            rest = rest.split_once(&close).map_or("", |r| r.1);
        }
    }
    out.retain(|t| !t.trim().is_empty());
    out
}

/// Where a tag ends: a `>` outside quotes.
fn tag_end(tag: &str) -> Option<usize> {
    let mut quoted = false;
    tag.char_indices().find_map(|(at, c)| {
        quoted ^= c == '"';
        (c == '>' && !quoted).then_some(at)
    })
}

#[sqlx::test(migrations = false)]
async fn every_page_says_its_figures_as_people_do(pool: PgPool) {
    let at = serve(&pool).await;
    let fragment = "\r\nhx-request: true";
    post(at, "/jobs", "name=One+pot&place=&units=us", "").await;
    let one = "name=Pot&nozzle=spray-12&count=1&arc=180";
    post(at, "/jobs/4/heads/new", one, fragment).await;
    let book = include_str!("../demo/prices.csv");
    let look = multipart(at, "/prices/look", "book.csv", book.as_bytes()).await;
    let key = body(&look).split("name=\"key\" value=\"").nth(1).unwrap();
    let key = key.split('"').next().unwrap();
    let taken = post(at, "/prices/take", &format!("key={key}&how=beside"), "").await;
    assert_eq!(status(&taken), "303", "{taken:.400}");
    let of_jobs = (1..=4).flat_map(|job| PAGES.map(|page| format!("/jobs/{job}/{page}")));
    let others = ["/", "/quick", "/prices", "/help"].map(str::to_owned);
    let mut looked = 0;
    let mut wrong = Vec::new();
    for path in others.into_iter().chain(of_jobs) {
        let answer = ask(at, &format!("GET {path} HTTP/1.1"), "").await;
        let priced = ["/money", "/quote", "/layout", "/prices"].iter().any(|p| path.contains(p));
        for text in texts(body(&answer)) {
            looked += 1;
            let found = unplain(&text).or_else(|| bare_amount(&text).filter(|_| priced));
            wrong.extend(found.map(|f| format!("{path}: ‘{f}’ in {}", text.trim())));
        }
    }
    assert!(wrong.is_empty(), "{} texts:\n{}", wrong.len(), wrong.join("\n"));
    // A walk over empty pages would find nothing.
    assert!(looked > 10_000, "{looked} texts");
}

#[test]
fn blocks_part_texts_and_labels_are_read_too() {
    let page =
        r#"<p>On <b>1</b> valves</p><svg><text>1 heads</text></svg><button aria-label="2 x > 1">Go</button>"#;
    assert_eq!(texts(page), ["On 1 valves", "2 x > 1", "Go"]);
}
