use crate::args::ProposeArgs;
use crate::io::{BadInput, print, read};
use crate::report;
use anyhow::Result;
use fenlo_core::catalogue::Kind;
use fenlo_core::coverage::SolvedHeads;
use fenlo_core::job::Job;
use fenlo_core::layout::{LAID_OUT, Progress, Proposal, advise, lay_out, propose};
use fenlo_formats::{read_job, write_job};
use fenlo_words as words;
use serde_json::{Value, json};

/// An area with its proposal, or why there is none.
type Laid = (String, Result<Proposal, String>);

/// Lays out heads on areas, one after the other, and prints what they do, at nominal pressure, and the job
/// with them.
pub fn run(args: &ProposeArgs) -> Result<()> {
    let mut job = read_job(&read(&args.file)?).map_err(BadInput::from)?;
    let kind = args.kind.as_deref().map(kind).transpose()?;
    let known: Vec<String> = job.site.areas().map(|(t, _)| t.id.clone()).collect();
    if let Some(other) = args.area.iter().find(|a| !known.contains(a)) {
        let all = known.join(", ");
        return Err(BadInput::from(format!(
            "--area: there is no area ‘{other}’; areas are {all}"
        )));
    }
    let wanted = known
        .iter()
        .filter(|a| args.area.is_empty() || args.area.contains(a));
    let mut laid: Vec<Laid> = Vec::new();
    for area in wanted {
        let proposal = proposed(&job, area, kind);
        if let Ok(proposal) = &proposal {
            (job, _) = job.apply(&lay_out(&job, proposal)).map_err(BadInput::from)?;
        }
        laid.push((area.clone(), proposal));
    }
    print(&if args.json {
        as_json(&job, &laid)
    } else {
        as_text(&job, &laid)
    })
}

fn kind(word: &str) -> Result<Kind> {
    let known = LAID_OUT.into_iter().find(|k| json!(k) == json!(word));
    let all: Vec<String> = LAID_OUT
        .iter()
        .filter_map(|k| Some(json!(k).as_str()?.to_owned()))
        .collect();
    known.ok_or_else(|| BadInput::from(format!("--kind: ‘{word}’ is not one of {}", all.join(", "))))
}

/// Of the kind that was asked for, else of the kind that suits the ground.
fn proposed(job: &Job, area: &str, kind: Option<Kind>) -> Result<Proposal, String> {
    let u = job.units;
    let suits = || advise(job, area).map(|a| a.kind).filter(|k| LAID_OUT.contains(k));
    let kind = kind
        .or_else(suits)
        .ok_or("drip suits this ground: list its rows")?;
    propose(job, area, kind, &Progress::default()).map_err(|fault| words::layout_fault(&fault, u))
}

fn as_text(job: &Job, laid: &[Laid]) -> String {
    let mut out = String::new();
    for (area, proposal) in laid {
        let name = job.site.object(area).map_or("", |t| t.title());
        out += &match proposal {
            Ok(p) => format!(
                "{name}: {} heads, {}\n",
                p.heads.len(),
                words::how_laid_out(p, job.units)
            ),
            Err(why) => format!("{name}: {why}\n"),
        };
    }
    out + &report::areas_text(job, &SolvedHeads::default())
}

fn as_json(job: &Job, laid: &[Laid]) -> String {
    let faults: Vec<Value> = laid
        .iter()
        .filter_map(|(area, p)| Some(json!({ "id": area, "why": p.as_ref().err()? })))
        .collect();
    let job_file: Value = serde_json::from_str(&write_job(job)).unwrap_or_default();
    report::pretty(&json!({
        "format": "fenlo-propose/1",
        "areas": report::areas_json(job, &SolvedHeads::default()),
        "not_laid_out": faults,
        "job": job_file,
    }))
}
