//! Pipe: what could not be laid or sized, what trench and pipe come to.

use crate::names::either;
use crate::said::{Said, said};
use crate::working::Working;
use fenlo_core::assess::PipesReport;
use fenlo_core::findings::Check;
use fenlo_core::job::Job;
use fenlo_core::piping::{BadPlace, Contents, LoopCost, RouteFault, Short, SizeShort, Sizes, Wire};
use fenlo_core::plan::LegOf;
use fenlo_core::units::{Flow, Length, Pressure, Speed, UnitSystem};
use fenlo_core::zoning::Proposal;

/// What a thing of the plan is called: a head by its valve, else its own name.
fn name_of(job: &Job, id: &str) -> String {
    if let Some(valve) = job.valve(id) {
        return format!("valve {} ({})", job.valve_number(id), valve.name);
    }
    if let Some((group, _)) = job.drawn_head(id) {
        return format!("head {id} of {}", group.name);
    }
    if let Some(supply) = job.supply(id) {
        return supply.name.clone();
    }
    job.site
        .object(id)
        .map_or_else(|| id.to_owned(), |o| o.title().to_owned())
}

/// `1 valve`, `3 valves`.
fn counted(n: usize, what: &str) -> String {
    format!("{n} {what}{}", if n == 1 { "" } else { "s" })
}

/// How deep a pipe lies: `14 in`, `450 mm`.
pub fn depth(depth: Length, u: UnitSystem) -> String {
    let (value, unit) = if u.is_metric() {
        (depth.mm(), "mm")
    } else {
        (depth.inches(), "in")
    };
    let text = format!("{value:.1}");
    format!("{} {unit}", text.trim_end_matches('0').trim_end_matches('.'))
}

/// What is wrong with a place for a box.
pub fn bad_place(why: &BadPlace, job: &Job) -> String {
    match why {
        BadPlace::On(id) => format!("it stands on {}", name_of(job, id)),
        BadPlace::Canopy(id) => format!("the canopy of {} will stand over it", name_of(job, id)),
        BadPlace::Low => "it is the low spot, where water stands".into(),
    }
}

/// What could not be laid, and what to do about it.
pub fn route_fault(fault: &RouteFault, job: &Job) -> String {
    match fault {
        RouteFault::NoConnection { supply } => format!(
            "{} has no place on the plan: mark its meter or water point on the ground, and the main can \
                start",
            name_of(job, supply)
        ),
        RouteFault::NoBox { valve } => format!(
            "{}: no place for a valve box was found: mark one on the ground",
            name_of(job, valve)
        ),
        RouteFault::BadBox { place, why } => {
            format!("{} stands badly: {}", name_of(job, place), bad_place(why, job))
        }
        RouteFault::NoWay { to } => format!(
            "no trench leads to {}: it is shut in by what may not be dug, or paving too wide to cross",
            name_of(job, to)
        ),
    }
}

fn sized(of: &LegOf, job: &Job) -> String {
    match of {
        LegOf::Main(supply) => format!("the main of {}", name_of(job, supply)),
        LegOf::Lateral(valve) => name_of(job, valve),
    }
}

/// All that is to be said of sizes: what loops cost and what could not be kept.
pub fn sizes_said(sizes: &Sizes, job: &Job) -> Vec<String> {
    let loops = sizes.loops.iter().map(|l| loop_cost(l, job));
    let short = sizes.short.iter().map(|s| size_short(s, job));
    loops.chain(short).collect()
}

/// What the pipe of a main or lateral with loops costs, and what none could cost less than.
fn loop_cost(cost: &LoopCost, job: &Job) -> String {
    let least = if cost.bound >= cost.cost - 0.005 {
        "no sizes cost less".to_owned()
    } else {
        format!("the best found; none cost less than {:.0}", cost.bound)
    };
    format!(
        "Sizes of {}, which closes a loop: pipe for {:.0} by the house’s prices, {least}",
        sized(&cost.of, job),
        cost.cost,
    )
}

/// What the sizes of a main or lateral can't keep.
fn size_short(short: &SizeShort, job: &Job) -> String {
    let u = job.units;
    let of = sized(&short.of, job);
    match short.short {
        Short::Pressure(lack) => format!(
            "Sizes of {of}: with all its heads at full flow, even the largest pipe leaves the last one {} \
             short of its aim",
            lack.show(u)
        ),
        Short::Spread(spread) => format!(
            "Sizes of {of}: height and distance set its heads {} apart whatever the pipe",
            spread.show(u)
        ),
        Short::Velocity(_, speed) => format!(
            "Sizes of {of}: water runs at {} in the largest pipe",
            speed.show(u)
        ),
    }
}

/// How many valves a split takes, and why more than the least.
pub fn split_said(proposal: &Proposal, u: UnitSystem) -> String {
    let mut said = counted(proposal.valves, "valve");
    for more in &proposal.why {
        said += &format!("; {}", crate::more_valves(more, u));
    }
    said
}

/// Trench, pipe and cost in a sentence, with what no layout could do without.
pub fn pipes_said(report: &PipesReport, u: UnitSystem) -> String {
    let dug = report.earthwork.length();
    format!(
        "{} of trench (no layout of these heads does with less than {}), {} of paving; by the house's \
         prices {:.0} (at least {:.0}): trench {:.0}, crossings {:.0}, pipe {:.0}, tees {:.0}, boxes {:.0}",
        dug.show(u),
        report.least_trench.show(u),
        counted(report.earthwork.crossings.len(), "crossing"),
        report.costs.total(),
        report.least_cost,
        report.costs.trench,
        report.costs.crossings,
        report.costs.pipe,
        report.costs.tees,
        report.costs.boxes,
    )
}

/// Strands, gauge and volts in a sentence.
pub fn wire_said(wire: &Wire, job: &Job) -> String {
    let u = job.units;
    let rules = &job.rules.trench;
    let gauge = match wire.gauge {
        Some(gauge) => format!("{gauge} AWG loses {:.1} V to the furthest valve", wire.drop_volts),
        None => format!(
            "even 12 AWG loses {:.1} V to the furthest valve, more than the {:.0} V that may be lost",
            wire.drop_volts,
            rules.controller_volts - rules.solenoid_volts
        ),
    };
    format!(
        "{}: {} strands of wire (one common, one a valve, {} spare{}), {} in all with slack; {gauge} at {} \
            and {} A",
        counted(wire.valves, "valve"),
        wire.valves + 1 + wire.spares + wire.later,
        wire.spares,
        match wire.later {
            0 => String::new(),
            n => format!(", {n} for later"),
        },
        wire.strands.show(u),
        wire.furthest.show(u),
        rules.solenoid_amps
    )
}

/// How fast water runs in a pipe, opened.
pub fn pipe_velocity(flow: Flow, inside: Length, u: UnitSystem) -> Working {
    Working::new(
        either(u, "0.4085 Q / d² (gpm, in)", "21.22 Q / d² (L/min, mm)"),
        either(
            u,
            "arithmetic; 5 ft/s is the usual limit in plastic",
            "arithmetic; 1.5 m/s is the usual limit in plastic",
        ),
    )
    .with("Q", flow.show(u))
    .with("d, inside", inside.show_bore(u))
    .gives(Speed::in_pipe(flow, inside).show(u))
}

/// What a pipe costs in pressure, opened.
pub fn pipe_loss(job: &Job, flow: Flow, length: Length, inside: Length, c: f64, drop: Pressure) -> Working {
    let u = job.units;
    Working::new(
        either(
            u,
            "4.52 L Q^1.852 / (C^1.852 d^4.8704) (psi, ft, gpm, in)",
            "6.04·10⁷ L Q^1.852 / (C^1.852 d^4.8704) (kPa, m, L/min, mm)",
        ),
        "Hazen and Williams (1905), with the house's allowance for fittings",
    )
    .with("L", length.show(u))
    .with("fittings", format!("{:.0} % more", job.rules.fittings * 100.0))
    .with("Q", flow.show(u))
    .with("C", format!("{c:.0}"))
    .with("d, inside", inside.show_bore(u))
    .gives(drop.show(u))
}

/// A place of the plan by what it is called.
pub(crate) fn place(at: &str, job: &Job) -> String {
    match (job.valve(at), job.piping.leg(at)) {
        (Some(valve), _) => format!("valve {} {}", job.valve_number(at), valve.name),
        (_, Some(_)) => format!("pipe {at}"),
        _ => at.to_owned(),
    }
}

/// Findings of drawn pipe, in words.
pub(crate) fn of_pipe(check: &Check, job: &Job) -> Option<Said> {
    let u = job.units;
    let practice = "practice; the local code and those who know the ground decide";
    Some(match check {
        Check::PipeUnder { leg, what, length } => said(
            format!("Pipe under {what}"),
            format!(
                "Pipe {leg} runs {} under {what}, where nobody may dig or mend it: bend it round, or route \
                    it anew. \
                 Have buried lines marked before anyone digs.",
                length.show(u)
            ),
            Working::new("length of the pipe on it", practice).gives(length.show(u)),
        ),
        Check::PipeThroughRoots { leg, what, length } => said(
            "Pipe through roots",
            format!(
                "Pipe {leg} runs {} within half the canopy of {what}: go round, or dig there by hand and \
                    leave roots \
                 thicker than a thumb.",
                length.show(u)
            ),
            Working::new("length within half the canopy's radius", practice).gives(length.show(u)),
        ),
        Check::UnsleevedCrossing { leg, what, length } => said(
            "Crossing without a sleeve",
            format!(
                "Pipe {leg} crosses {what} for {} without a sleeve: once it is paved nobody draws the pipe \
                    out. Two sizes \
                 up, a foot beyond both edges, with a spare.",
                length.show(u)
            ),
            Working::new("length of the pipe under paving", practice).gives(length.show(u)),
        ),
        Check::AboveFrost { leg, depth, frost } => said(
            "Pipe lies where it freezes",
            format!(
                "Pipe {leg} lies {} deep, frost or code want {}, and no drain valve empties it: lay it \
                    deeper, set a \
                 drain at the low end, or blow it out every autumn.",
                self::depth(*depth, u),
                self::depth(*frost, u)
            ),
            Working::new(
                "depth of cover against the depth typed in",
                "house rule: frost or code depth",
            )
            .with("depth", depth.show(u))
            .with("wanted", frost.show(u))
            .gives("too shallow"),
        ),
        Check::OffMain {} => said(
            "No main reaches this valve",
            "The main is drawn, but not to the box that this valve stands in: its typed main is reckoned \
                with. Route \
             again, or draw the main to its box.",
            Working::new("the main from the connection to the valve's box", "the plan").gives("not joined"),
        ),
        Check::HeadOffLateral { heads, of } => said(
            "Heads off their lateral",
            format!(
                "{heads} of {of} heads hang on no drawn pipe of this valve; they are reckoned with straight \
                    legs from the \
                 nearest joint. Reroute the zone, or draw pipe to them."
            ),
            Working::new("heads that the drawn pipe reaches", "the plan")
                .gives(format!("{} of {of}", of - heads)),
        ),
        Check::LateralLong {
            pipe,
            follows,
            counts,
            needs,
        } => said(
            "Lateral longer than it needs to be",
            format!(
                "{} of pipe{} where {} join its heads straight: reroute the zone and compare.",
                pipe.show(u),
                if follows.m() < 0.5 {
                    String::new()
                } else {
                    format!(", {} of it in trenches of other pipes,", follows.show(u))
                },
                needs.show(u)
            ),
            Working::new(
                "pipe drawn, where another pipe has it dug by what pipe alone costs / shortest straight connection",
                "Prim (1957); the house's prices; told from a quarter more",
            )
            .with("pipe drawn", pipe.show(u))
            .with("in trenches of other pipes", follows.show(u))
            .with("counts as", counts.show(u))
            .with("shortest", needs.show(u))
            .gives(format!("{:.2}", *counts / *needs)),
        ),
        Check::BoxMisplaced { name, why } => said(
            "Valve box stands badly",
            format!(
                "{name}: {}. It has to be reached in ten years' time.",
                bad_place(why, job)
            ),
            Working::new("where it stands", practice).gives("move it"),
        ),
        Check::JointUnmade { at, wanted } => said(
            "A joint that can't be made",
            format!(
                "At {} a {wanted} is wanted, and the catalogue has none: another size or kind of pipe \
                    there, or parts \
                 whose ends fit.",
                place(at, job)
            ),
            Working::new("what meets there", "the fittings of the catalogue").gives(wanted.clone()),
        ),
        Check::BoxFull {
            name,
            valves,
            filters,
            most,
            ..
        } => {
            let kits = kits(*filters);
            said(
                "Too much for one box",
                format!(
                    "{name} is to hold {valves} valves{kits}; the largest box has room for {most}, where a filter \
                     takes a valve’s room to be unscrewed and drawn out. Set a second box beside it."
                ),
                Working::new("a place for each valve and one for each filter", practice)
                    .gives((valves + filters).to_string()),
            )
        }
        _ => return None,
    })
}

fn kits(filters: usize) -> String {
    match filters {
        0 => String::new(),
        1 => " and a filter".to_owned(),
        n => format!(" and {n} filters"),
    }
}

/// What a box holds.
pub(crate) fn contents(of: Contents) -> String {
    let valves = match of.valves {
        1 => "a valve".to_owned(),
        n => format!("{n} valves"),
    };
    valves + &kits(of.filters)
}
