//! Findings with their arithmetic and remedies, as every screen shows them.

use askama::Template;
use fenlo_core::findings::Severity;
use fenlo_core::job::Job;
use fenlo_core::remedies::Diagnosis;
use fenlo_core::terms::Lang;
use fenlo_words::Said;

#[derive(Template)]
#[template(path = "parts/findings.html")]
struct Findings<'a> {
    job: i64,
    here: String,
    well: &'a str,
    findings: Vec<View>,
}

struct View {
    class: &'static str,
    mark: &'static str,
    word: &'static str,
    said: Said,
    remedies: Vec<RemedyView>,
    /// One filled button a view: on the worst finding's first remedy.
    lead: bool,
}

struct RemedyView {
    label: String,
    effect: String,
    edit: String,
}

/// How a severity looks: its class, and the mark that tells it without colour.
pub fn class(severity: Severity) -> (&'static str, &'static str) {
    match severity {
        Severity::Stop => ("stop", "!"),
        Severity::Fix => ("fix", "▲"),
        Severity::Watch => ("watch", "◦"),
        Severity::Open => ("open", "□"),
    }
}

/// Findings of a job; `well` is said where there are none.
pub fn render(id: i64, job: &Job, here: String, well: &str, found: &[Diagnosis]) -> askama::Result<String> {
    let view = |(i, f): (usize, &Diagnosis)| {
        let word = f.finding.severity.name(Lang::En);
        let (class, mark) = class(f.finding.severity);
        let remedies = f.remedies.iter().filter_map(|r| {
            Some(RemedyView {
                label: fenlo_words::action(&r.action, job),
                effect: fenlo_words::gives(r, job),
                edit: serde_json::to_string(&r.edit).ok()?,
            })
        });
        View {
            class,
            mark,
            word,
            said: fenlo_words::finding(&f.finding, job),
            remedies: remedies.collect(),
            lead: i == 0,
        }
    };
    let findings = found.iter().enumerate().map(view).collect();
    Findings { job: id, here, well, findings }.render()
}
