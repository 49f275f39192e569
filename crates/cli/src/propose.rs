use crate::args::{ProposeArgs, Step};
use crate::io::{BadInput, print, read};
use crate::parts::price_book;
use crate::report;
use crate::times::this_year;
use anyhow::{Context, Result};
use fenlo_core::assess::{AreaReport, Assessment, area_reports, assess, pipes_report};
use fenlo_core::catalogue::Kind;
use fenlo_core::job::Job;
use fenlo_core::layout::LAID_OUT;
use fenlo_core::piping::RouteFault;
use fenlo_core::planning::{Choice, Laid, Piped, Planned, Steps, TenYears, Wish, carry_out, plan};
use fenlo_core::progress::Progress;
use fenlo_core::zoning::{ValveChange, ValveState};
use fenlo_formats::{read_job, write_job};
use fenlo_words as words;
use serde_json::{Value, json};

/// Kinds of drip that can be laid.
const DRIP: [Kind; 3] = [Kind::Dripline, Kind::Tape, Kind::Emitter];

/// What was proposed, and how it is told.
struct Work {
    planned: Planned,
    currency: String,
    /// Sentences, in the order of the steps.
    said: Vec<String>,
    /// What makes the plan that comes out incomplete.
    impossible: Vec<String>,
}

/// Proposes a plan for drawn ground and prints it.
pub fn run(args: &ProposeArgs) -> Result<()> {
    let job = read_job(&read(&args.file)?).map_err(BadInput::from)?;
    let book = args.prices.as_deref().map(|file| price_book(file, &job)).transpose()?;
    let steps = |step| args.steps.contains(&step);
    let after = Steps {
        split: steps(Step::Split),
        route: steps(Step::Route),
        size: steps(Step::Size),
        regulate: steps(Step::Regulate),
    };
    let planned = if steps(Step::Layout) {
        let wish = Wish {
            areas: named(&job, &args.area)?,
            kind: args.kind.as_deref().map(kind).transpose()?,
            steps: after,
            year: this_year(),
        };
        plan(&job, &wish, &book.unwrap_or_default(), &Progress::default())
    } else {
        let piped = carry_out(&job, after);
        Planned { laid: Vec::new(), choices: Vec::new(), piped, price: None, tried: 0 }
    };
    let work = Work::told(planned, &job);
    if let Some(out) = &args.out {
        let file = write_job(&work.planned.piped.job);
        std::fs::write(out, file).with_context(|| format!("cannot write {}", out.display()))?;
    }
    // Heads laid out and nothing more are told at nominal pressure; on valves, as they are solved.
    let solved = (args.steps != [Step::Layout]).then(|| assess(&work.planned.piped.job));
    print(&if args.json { work.as_json(solved.as_ref()) } else { work.as_text(solved.as_ref()) })?;
    if work.impossible.is_empty() {
        return Ok(());
    }
    Err(BadInput::from(work.impossible.join("\n")))
}

/// Areas that were named, all of them there.
fn named(job: &Job, areas: &[String]) -> Result<Vec<String>> {
    let known: Vec<String> = job.site.areas().map(|(t, _)| t.id.clone()).collect();
    if let Some(other) = areas.iter().find(|a| !known.contains(a)) {
        let all = known.join(", ");
        return Err(BadInput::from(format!("--area: unknown area ‘{other}’. Available: {all}")));
    }
    Ok(areas.to_vec())
}

fn kind(word: &str) -> Result<Kind> {
    let kinds = || LAID_OUT.into_iter().chain(DRIP);
    let known = kinds().find(|k| json!(k) == json!(word));
    let all: Vec<String> = kinds().filter_map(|k| Some(json!(k).as_str()?.to_owned())).collect();
    known.ok_or_else(|| BadInput::from(format!("--kind: unknown head type ‘{word}’. Use {}", all.join(", "))))
}

/// Why an area has the kind that it has.
fn choice(choice: &Choice) -> Value {
    let others = choice.others.iter().map(|w| {
        json!({
            "kind": w.kind,
            "more": w.more.round(),
            "stop": w.whole.map(|p| p.found.stop),
            "fix": w.whole.map(|p| p.found.fix),
            "valves": w.whole.map(|p| p.valves),
        })
    });
    json!({ "area": choice.area, "kind": choice.taken, "others": others.collect::<Vec<_>>() })
}

/// What a plan costs over ten years.
fn price(price: &TenYears, currency: &str) -> Value {
    json!({
        "currency": currency,
        "first": price.first.round(),
        "water_a_year": price.water_cost.round(),
        "water_a_year_l": price.water.litres().round(),
        "ten_years": price.sum().round(),
    })
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

impl Work {
    fn told(planned: Planned, before: &Job) -> Self {
        let Piped { job, split, faults, sized, refused, .. } = &planned.piped;
        let u = before.units;
        let mut said: Vec<String> = planned.choices.iter().map(|c| words::choice(c, job)).collect();
        // What stands at the connection is bought and fitted too: nobody should find it in the parts list first.
        said.extend(words::connections(before, job));
        let mut impossible = refused.clone();
        if let Some(split) = split {
            said.push(words::split_said(split, u));
            impossible.extend(split.hopeless.iter().map(|h| words::no_hope(h, u)));
        }
        for fault in faults {
            let sentence = words::route_fault(fault, job);
            match fault {
                RouteFault::BadBox { .. } => said.push(sentence),
                _ => impossible.push(sentence),
            }
        }
        said.extend(sized.iter().flat_map(|s| words::sizes_said(s, job)));
        said.extend(planned.price.iter().map(|p| words::ten_years(p, &job.rules.buying.currency, u)));
        Self { currency: job.rules.buying.currency.clone(), said, impossible, planned }
    }

    fn job(&self) -> &Job {
        &self.planned.piped.job
    }

    /// An area with what was laid on it in a sentence, or why nothing was.
    fn laid(&self) -> impl Iterator<Item = (&str, Result<String, String>)> {
        let of = |laid: &Laid| match &laid.made {
            Ok(made) => Ok(words::made(made, self.job())),
            Err(why) => Err(words::lay_fault(why, self.job().units)),
        };
        self.planned.laid.iter().map(move |l| (l.area.as_str(), of(l)))
    }

    /// The water on the ground: of heads laid out and nothing more at nominal pressure.
    fn areas(&self, solved: Option<&Assessment>) -> Vec<AreaReport> {
        area_reports(self.job(), &solved.map(Assessment::solved_heads).unwrap_or_default())
    }

    fn areas_text(&self, solved: Option<&Assessment>) -> String {
        report::areas_text(self.job(), &assess(self.job()), &self.areas(solved))
    }

    fn areas_json(&self, solved: Option<&Assessment>) -> Vec<Value> {
        report::areas_json(self.job(), &assess(self.job()), &self.areas(solved))
    }

    fn as_text(&self, solved: Option<&Assessment>) -> String {
        let mut out = String::new();
        for (area, proposal) in self.laid() {
            let name = self.job().site.object(area).map_or("", |t| t.title());
            let (Ok(said) | Err(said)) = proposal;
            out += &format!("{name}: {said}\n");
        }
        for said in &self.said {
            out += said;
            out.push('\n');
        }
        for change in &self.planned.piped.changed {
            let (name, lines) = words::valve_change(change, self.job().units);
            out += &format!("{name}: {}\n", lines.join("; "));
        }
        let Some(assessment) = solved else {
            return out + &self.areas_text(None);
        };
        out += &report::pipes_text(self.job(), assessment);
        // The water on the ground is told where heads were laid out: it is the longest to work out.
        if !self.planned.laid.is_empty() {
            out += &self.areas_text(Some(assessment));
        }
        out
    }

    fn as_json(&self, solved: Option<&Assessment>) -> String {
        let faults: Vec<Value> =
            self.laid().filter_map(|(area, p)| Some(json!({ "id": area, "why": p.err()? }))).collect();
        let job_file: Value = serde_json::from_str(&write_job(self.job())).unwrap_or_default();
        let areas = if self.planned.laid.is_empty() { Vec::new() } else { self.areas_json(solved) };
        let mut out = json!({
            "format": "fenlo-propose/1",
            "areas": areas,
            "not_laid_out": faults,
            "said": self.said,
            "impossible": self.impossible,
            "changed": self.planned.piped.changed.iter().map(|c| changed(c, self.job())).collect::<Vec<_>>(),
            "choices": self.planned.choices.iter().map(choice).collect::<Vec<_>>(),
            "price": self.planned.price.as_ref().map(|p| price(p, &self.currency)),
            "tried": self.planned.tried,
            "job": job_file,
        });
        if let Some(pipes) = solved.and_then(|a| pipes_report(self.job(), a)) {
            report::put_pipes(&mut out, self.job(), &pipes);
        }
        report::pretty(&out)
    }
}
