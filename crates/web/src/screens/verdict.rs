//! What is wrong or open in the whole job, in one box: before parts are bought and before a quote is sent.

use crate::assessed::Assessed;
use crate::place::Screen;
use askama::Template;
use fenlo_core::findings::Severity;
use fenlo_core::job::Job;
use fenlo_core::steps::Step;
use fenlo_core::terms::Lang;
use fenlo_core::verdict::{Subject, Total};

#[derive(Template)]
#[template(path = "parts/verdict.html")]
struct Box {
    total: Total,
    lines: Vec<Line>,
}

/// Findings of one kind, wherever they are.
struct Line {
    class: &'static str,
    word: &'static str,
    title: String,
    /// Where each is, in the plan's order.
    places: Vec<String>,
    href: String,
}

/// Nothing to mend and nothing to plan: nothing is shown.
pub fn render(known: &Assessed) -> askama::Result<String> {
    let (job, verdict) = (known.job(), known.verdict());
    let mut lines: Vec<Line> = Vec::new();
    for entry in verdict.entries().iter().filter(|e| e.finding.severity != Severity::Watch) {
        let said = fenlo_words::finding(&entry.finding, job);
        let word = entry.finding.severity.name(Lang::En);
        let place = place(&entry.of, job);
        match lines.iter_mut().find(|l| l.title == said.title && l.word == word) {
            Some(line) if line.places.contains(&place) => {}
            Some(line) => line.places.push(place),
            None => lines.push(Line {
                class: super::findings::class(entry.finding.severity).0,
                word,
                title: said.title,
                places: vec![place],
                href: href(known.open.id, &entry.of, Step::of(&entry.finding.check)),
            }),
        }
    }
    if lines.is_empty() {
        return Ok(String::new());
    }
    lines.iter_mut().for_each(|l| l.places.retain(|p| !p.is_empty() && !l.title.contains(p.as_str())));
    Box { total: verdict.total(), lines }.render()
}

/// Where it is, for people; nothing for the job as a whole.
fn place(of: &Subject, job: &Job) -> String {
    match of {
        Subject::Supply(id) => job.supply(id).map_or_else(String::new, |s| s.name.clone()),
        Subject::Valve(id) => {
            job.valve(id).map_or_else(String::new, |v| format!("{} {}", job.valve_number(id), v.name))
        }
        Subject::Area(id) => job.site.object(id).map_or_else(String::new, |o| o.title().to_owned()),
        Subject::Job => String::new(),
    }
}

/// The page on which it is mended.
fn href(id: i64, of: &Subject, step: Step) -> String {
    let path = Screen::of(step).path;
    match (of, step) {
        (Subject::Valve(valve), Step::Valves | Step::Pressure) => format!("/jobs/{id}/{path}?valve={valve}"),
        _ => format!("/jobs/{id}/{path}"),
    }
}
