//! Findings with their arithmetic and remedies, as every screen shows them.

use askama::Template;
use fenlo_core::findings::{Finding, Severity};
use fenlo_core::working::Working;

#[derive(Template)]
#[template(path = "parts/findings.html")]
struct Findings<'a> {
    job: i64,
    here: String,
    well: &'a str,
    findings: Vec<View<'a>>,
}

struct View<'a> {
    class: &'static str,
    mark: &'static str,
    word: &'static str,
    title: &'a str,
    text: &'a str,
    working: &'a Working,
    remedies: Vec<RemedyView<'a>>,
    valve: Option<usize>,
    href: String,
    /// One filled button a view: on the worst finding's first remedy.
    lead: bool,
}

struct RemedyView<'a> {
    label: &'a str,
    effect: &'a str,
    edit: String,
}

/// `of`: for each finding, the number and page of the valve it belongs to, where that is not plain.
pub fn render<'a>(
    job: i64,
    here: String,
    well: &'a str,
    findings: impl Iterator<Item = (&'a Finding, Option<(usize, String)>)>,
) -> askama::Result<String> {
    let findings = findings
        .enumerate()
        .map(|(i, (f, of))| {
            let (class, mark, word) = match f.severity {
                Severity::Stop => ("stop", "!", "Stop"),
                Severity::Fix => ("fix", "▲", "Fix"),
                Severity::Watch => ("watch", "◦", "Watch"),
            };
            let remedies = f
                .remedies
                .iter()
                .filter_map(|r| {
                    Some(RemedyView {
                        label: &r.label,
                        effect: &r.effect,
                        edit: serde_json::to_string(&r.edit).ok()?,
                    })
                })
                .collect();
            let (valve, href) = of.map_or((None, String::new()), |(n, href)| (Some(n), href));
            View {
                class,
                mark,
                word,
                title: &f.title,
                text: &f.text,
                working: &f.working,
                remedies,
                valve,
                href,
                lead: i == 0,
            }
        })
        .collect();
    Findings {
        job,
        here,
        well,
        findings,
    }
    .render()
}
