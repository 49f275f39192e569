//! What stands round every page of a job: its name, saved state, undo, and the rail of steps.

use crate::assessed::Assessed;
use crate::place::{Here, SCREENS};
use askama::Template;
use fenlo_core::steps::StepState;

/// The parts round a page.
pub struct Shell<'a> {
    known: &'a Assessed,
    here: &'a Here,
    pub id: i64,
    pub name: &'a str,
    pub title: &'static str,
}

#[derive(Template)]
#[template(path = "parts/status.html")]
struct Status {
    seq: i64,
}

#[derive(Template)]
#[template(path = "parts/undo.html")]
struct Undo<'a> {
    id: i64,
    here: String,
    undo: &'a Option<String>,
    redo: &'a Option<String>,
}

#[derive(Template)]
#[template(path = "parts/rail.html")]
struct Rail {
    /// Where the steps are asked for anew.
    ask: Option<String>,
    steps: Vec<RailStep>,
}

struct RailStep {
    title: &'static str,
    href: String,
    key: char,
    here: bool,
    state: &'static str,
    mark: &'static str,
    says: &'static str,
}

impl<'a> Shell<'a> {
    pub fn new(known: &'a Assessed, here: &'a Here) -> Self {
        Self { known, here, id: known.open.id, name: &known.open.job.name, title: here.screen.row().title }
    }

    /// How people of this job write quantities, as in addresses.
    pub fn units(&self) -> String {
        crate::choices::word(&self.known.job().units)
    }

    /// Last part of the address of its screen.
    pub fn path(&self) -> &'static str {
        self.here.screen.row().path
    }

    pub fn status_html(&self) -> askama::Result<String> {
        let seq = self.known.open.seq;
        Status { seq }.render()
    }

    /// What a page says of saving when it opens.
    pub fn saved(&self) -> &'static str {
        if self.known.open.seq == 0 { "" } else { "saved" }
    }

    pub fn undo_html(&self) -> askama::Result<String> {
        Undo { id: self.id, here: self.here.word(), undo: &self.known.open.undo, redo: &self.known.open.redo }
            .render()
    }

    pub fn rail_html(&self) -> askama::Result<String> {
        self.rail_of(self.known.states(), false)
    }

    /// The same without waiting for a verdict: steps as they were, with what asks for them once hands rest.
    pub fn rail_soon_html(&self) -> askama::Result<String> {
        match self.known.states_before() {
            Some(states) => self.rail_of(states, true),
            None => self.rail_html(),
        }
    }

    fn rail_of(&self, states: [StepState; 7], ask_again: bool) -> askama::Result<String> {
        let here = self.here.screen.row().step;
        let steps = SCREENS.iter().filter_map(|row| {
            let (step, key) = (row.step?, row.key?);
            let (state, mark, says) = match states[step as usize] {
                StepState::Stops => ("stop", "!", "has a Stop finding"),
                StepState::Done => ("done", "✓", "done"),
                StepState::Open => ("open", "", "open"),
            };
            Some(RailStep {
                title: row.title,
                href: format!("/jobs/{}/{}", self.id, row.path),
                key,
                here: here == Some(step),
                state,
                mark,
                says,
            })
        });
        let ask = ask_again.then(|| format!("/jobs/{}/rail?at={}", self.id, self.here.word()));
        Rail { ask, steps: steps.collect() }.render()
    }
}
