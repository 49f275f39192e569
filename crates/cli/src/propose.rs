use crate::args::{ProposeArgs, Step};
use crate::io::{BadInput, print, read};
use crate::report;
use anyhow::{Context, Result};
use fenlo_core::assess::{AreaReport, Assessment, area_reports, assess, pipes_report};
use fenlo_core::catalogue::Kind;
use fenlo_core::drip::{DripWish, design, usual_kind};
use fenlo_core::job::Job;
use fenlo_core::layout::{LAID_OUT, advise, lay_out, propose};
use fenlo_core::piping::{RouteFault, Scope as Routing, routes, sizes};
use fenlo_core::plan::Edit;
use fenlo_core::progress::Progress;
use fenlo_core::regulation::recommended;
use fenlo_core::units::Flow;
use fenlo_core::zoning::{self, Scope, ValveChange, ValveState};
use fenlo_formats::{read_job, write_job};
use fenlo_words as words;
use serde_json::{Value, json};

/// An area with what was laid on it in a sentence, or why nothing was.
type Laid = (String, Result<String, String>);

/// Kinds of drip that can be laid.
const DRIP: [Kind; 3] = [Kind::Dripline, Kind::Tape, Kind::Emitter];

/// What was proposed, step by step, and what could not be.
struct Work {
    job: Job,
    laid: Vec<Laid>,
    /// Sentences, in the order of the steps.
    said: Vec<String>,
    /// What makes the plan that comes out incomplete.
    impossible: Vec<String>,
    /// What the split changed of the valves that there were.
    changed: Vec<ValveChange>,
}

/// Proposes a plan for drawn ground, step by step, and prints it.
pub fn run(args: &ProposeArgs) -> Result<()> {
    let job = read_job(&read(&args.file)?).map_err(BadInput::from)?;
    let mut work =
        Work { job, laid: Vec::new(), said: Vec::new(), impossible: Vec::new(), changed: Vec::new() };
    let wants = |step| args.steps.contains(&step);
    if wants(Step::Layout) {
        work.layout(args)?;
    }
    if wants(Step::Split) {
        work.split();
    }
    if wants(Step::Route) {
        work.route();
    }
    if wants(Step::Size) {
        work.size();
    }
    if wants(Step::Regulate) {
        work.regulate();
        // What a regulator leaves may want other pipe.
        if wants(Step::Size) {
            work.size();
        }
    }
    if let Some(out) = &args.out {
        let file = write_job(&work.job);
        std::fs::write(out, file).with_context(|| format!("cannot write {}", out.display()))?;
    }
    // Heads laid out and nothing more are told at nominal pressure; on valves, as they are solved.
    let solved = (args.steps != [Step::Layout]).then(|| assess(&work.job));
    print(&if args.json { work.as_json(solved.as_ref()) } else { work.as_text(solved.as_ref()) })?;
    if work.impossible.is_empty() {
        return Ok(());
    }
    Err(BadInput::from(work.impossible.join("\n")))
}

fn kind(word: &str) -> Result<Kind> {
    let kinds = || LAID_OUT.into_iter().chain(DRIP);
    let known = kinds().find(|k| json!(k) == json!(word));
    let all: Vec<String> = kinds().filter_map(|k| Some(json!(k).as_str()?.to_owned())).collect();
    known.ok_or_else(|| BadInput::from(format!("--kind: unknown head type ‘{word}’. Use {}", all.join(", "))))
}

/// Heads or drip of the kind that was asked for, else of the kind that suits the ground: the edit, and what
/// it lays in a sentence.
fn proposed(
    job: &Job,
    area: &str,
    kind: Option<Kind>,
    limit: Option<Flow>,
) -> Result<(Edit, String), String> {
    let u = job.units;
    let asked = kind;
    let suits = || advise(job, area).map(|a| a.kind);
    let kind = kind.or_else(suits).ok_or("no irrigated area")?;
    if LAID_OUT.contains(&kind) {
        let proposal =
            propose(job, area, kind, &Progress::default()).map_err(|f| words::layout_fault(&f, u))?;
        let heads = proposal.heads.len();
        let said = format!("{}, {}", words::counted(heads, "head"), words::how_laid_out(&proposal, u));
        return Ok((lay_out(job, &proposal), said));
    }
    // Drip that was not asked for by name is what the plants ask for.
    let wish = DripWish {
        kind: asked.or(Some(kind).filter(|k| *k == Kind::Emitter && planted(job, area))),
        ..DripWish::default()
    };
    let made = design(job, area, &wish, limit).map_err(|f| words::drip_fault(&f, u))?;
    let said = words::drip_laid(job, &made.group, &made.parts);
    Ok((made.edit, said))
}

/// A valve before and after a split, null where it was not or is no more, and what is said of it.
fn changed(change: &ValveChange, job: &Job) -> Value {
    let state = |s: &ValveState| {
        json!({
            "number": s.number, "name": s.name, "heads": s.heads,
            "flow_lpm": s.solved.map(|(flow, _)| flow.lpm()),
            "last_kpa": s.solved.map(|(_, last)| last.kpa()),
        })
    };
    let (_, lines) = words::valve_change(change, job.units);
    json!({ "was": change.was.as_ref().map(state), "now": change.now.as_ref().map(state), "said": lines })
}

/// A plant is drawn on the area.
fn planted(job: &Job, area: &str) -> bool {
    job.site.area(area).is_some_and(|a| usual_kind(job, a) == Kind::Emitter)
}

impl Work {
    fn apply(&mut self, edit: Option<Edit>) {
        let applied = edit.map(|edit| self.job.apply(&edit));
        match applied {
            Some(Ok((job, _))) => self.job = job,
            Some(Err(fault)) => self.impossible.push(fault.to_string()),
            None => {}
        }
    }

    fn layout(&mut self, args: &ProposeArgs) -> Result<()> {
        let kind = args.kind.as_deref().map(kind).transpose()?;
        let known: Vec<String> = self.job.site.areas().map(|(t, _)| t.id.clone()).collect();
        if let Some(other) = args.area.iter().find(|a| !known.contains(a)) {
            let all = known.join(", ");
            return Err(BadInput::from(format!("--area: unknown area ‘{other}’. Available: {all}")));
        }
        let wanted = known
            .iter()
            .filter(|a| args.area.is_empty() || args.area.contains(a))
            // What comes later is laid out when it is named.
            .filter(|a| !args.area.is_empty() || self.job.site.area(a).is_none_or(|area| !area.later))
            .cloned()
            .collect::<Vec<String>>();
        let limit = assess(&self.job).flow_for_drip(&self.job);
        for area in &wanted {
            let said = match proposed(&self.job, area, kind, limit) {
                Ok((edit, said)) => {
                    (self.job, _) = self.job.apply(&edit).map_err(BadInput::from)?;
                    Ok(said)
                }
                Err(why) => Err(why),
            };
            self.laid.push((area.clone(), said));
        }
        Ok(())
    }

    fn split(&mut self) {
        let water = assess(&self.job).water();
        let proposal = zoning::propose(&self.job, &water, Scope::All);
        self.said.push(words::split_said(&proposal, self.job.units));
        self.impossible.extend(proposal.hopeless.iter().map(|h| words::no_hope(h, self.job.units)));
        let before = self.job.clone();
        self.apply(proposal.edit);
        if !before.valves.is_empty() {
            self.changed = zoning::changes(&before, &self.job);
        }
    }

    fn route(&mut self) {
        let routed = routes(&self.job, Routing::All);
        self.apply(routed.edit);
        for fault in &routed.faults {
            let sentence = words::route_fault(fault, &self.job);
            match fault {
                RouteFault::BadBox { .. } => self.said.push(sentence),
                _ => self.impossible.push(sentence),
            }
        }
    }

    fn size(&mut self) {
        let sized = sizes(&self.job, None);
        self.said.retain(|s| !s.starts_with("Sizes"));
        self.said.extend(words::sizes_said(&sized, &self.job));
        self.apply(sized.edit);
    }

    fn regulate(&mut self) {
        for valve in self.job.valves.clone() {
            if let Some(regulation) = recommended(&self.job, &valve)
                && regulation != valve.regulation
            {
                self.apply(Some(Edit::fit(valve.id.clone(), regulation)));
            }
        }
    }

    /// The water on the ground: of heads laid out and nothing more at nominal pressure.
    fn areas(&self, solved: Option<&Assessment>) -> Vec<AreaReport> {
        area_reports(&self.job, &solved.map(Assessment::solved_heads).unwrap_or_default())
    }

    fn areas_text(&self, solved: Option<&Assessment>) -> String {
        report::areas_text(&self.job, &assess(&self.job), &self.areas(solved))
    }

    fn areas_json(&self, solved: Option<&Assessment>) -> Vec<Value> {
        report::areas_json(&self.job, &assess(&self.job), &self.areas(solved))
    }

    fn as_text(&self, solved: Option<&Assessment>) -> String {
        let mut out = String::new();
        for (area, proposal) in &self.laid {
            let name = self.job.site.object(area).map_or("", |t| t.title());
            let (Ok(said) | Err(said)) = proposal;
            out += &format!("{name}: {said}\n");
        }
        for said in &self.said {
            out += said;
            out.push('\n');
        }
        for change in &self.changed {
            let (name, lines) = words::valve_change(change, self.job.units);
            out += &format!("{name}: {}\n", lines.join("; "));
        }
        let Some(assessment) = solved else {
            return out + &self.areas_text(None);
        };
        out += &report::pipes_text(&self.job, assessment);
        // The water on the ground is told where heads were laid out: it is the longest to work out.
        if !self.laid.is_empty() {
            out += &self.areas_text(Some(assessment));
        }
        out
    }

    fn as_json(&self, solved: Option<&Assessment>) -> String {
        let faults: Vec<Value> = self
            .laid
            .iter()
            .filter_map(|(area, p)| Some(json!({ "id": area, "why": p.as_ref().err()? })))
            .collect();
        let job_file: Value = serde_json::from_str(&write_job(&self.job)).unwrap_or_default();
        let areas = if self.laid.is_empty() { Vec::new() } else { self.areas_json(solved) };
        let mut out = json!({
            "format": "fenlo-propose/1",
            "areas": areas,
            "not_laid_out": faults,
            "said": self.said,
            "impossible": self.impossible,
            "changed": self.changed.iter().map(|c| changed(c, &self.job)).collect::<Vec<_>>(),
            "job": job_file,
        });
        if let Some(pipes) = solved.and_then(|a| pipes_report(&self.job, a)) {
            report::put_pipes(&mut out, &self.job, &pipes);
        }
        report::pretty(&out)
    }
}
