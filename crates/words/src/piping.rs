//! Pipe: what could not be laid or sized, what trench and pipe come to.

use crate::names::either;
use crate::pricing::estimate;
use crate::said::{Said, counted, one, said};
use crate::working::Working;
use fenlo_core::assess::PipesReport;
use fenlo_core::catalogue::Pipe;
use fenlo_core::earthwork::{BadPlace, Contents};
use fenlo_core::findings::Check;
use fenlo_core::job::Job;
use fenlo_core::piping::{LoopCost, RouteFault, Short, SizeShort, Sizes, Wire};
use fenlo_core::plan::LegOf;
use fenlo_core::units::{Flow, Length, Pressure, Speed, UnitSystem};
use fenlo_core::zoning::Proposal;

/// What a thing of the plan is called: a head by its valve, else its own name.
fn name_of(job: &Job, id: &str) -> String {
    if let Some(valve) = job.valve(id) {
        return format!("valve {} ({})", job.valve_number(id), valve.name);
    }
    if let Some((group, _)) = job.drawn_head(id) {
        return format!("a head of {}", group.name);
    }
    if let Some(supply) = job.supply(id) {
        return supply.name.clone();
    }
    job.site.object(id).map_or_else(|| id.to_owned(), |o| o.title().to_owned())
}

/// How deep a pipe lies: `14 in`, `450 mm`.
pub fn depth(depth: Length, u: UnitSystem) -> String {
    let (value, unit) = if u.is_metric() { (depth.mm(), "mm") } else { (depth.inches(), "in") };
    let text = format!("{value:.1}");
    format!("{} {unit}", text.trim_end_matches('0').trim_end_matches('.'))
}

/// What is wrong with a place for a box.
pub fn bad_place(why: &BadPlace, job: &Job) -> String {
    match why {
        BadPlace::On(id) => format!("it is on {}", name_of(job, id)),
        BadPlace::Canopy(id) => format!("it is under the mature canopy of {}", name_of(job, id)),
        BadPlace::Low => "it is the low spot, where water collects".into(),
    }
}

/// What could not be laid, and what to do about it.
pub fn route_fault(fault: &RouteFault, job: &Job) -> String {
    match fault {
        RouteFault::NoConnection { supply } => format!(
            "{} is not on the plan. Mark its meter or point of connection on the site plan so the mainline \
                can start",
            name_of(job, supply)
        ),
        RouteFault::NoBox { valve } => {
            format!("{}: no spot found for a valve box. Mark one on the site plan", name_of(job, valve))
        }
        RouteFault::BadBox { place, why } => {
            format!("{} is in a bad spot: {}", name_of(job, place), bad_place(why, job))
        }
        RouteFault::NoWay { to } => format!(
            "no trench route to {}: it is enclosed by no-dig areas or pavement too wide to cross",
            name_of(job, to)
        ),
    }
}

fn sized(of: &LegOf, job: &Job) -> String {
    match of {
        LegOf::Main(supply) => format!("the mainline of {}", name_of(job, supply)),
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
    let money = |sum: f64| estimate(sum, &job.rules.buying.currency);
    let least = if cost.bound >= cost.cost - 0.005 {
        "no cheaper sizes exist".to_owned()
    } else {
        format!("best found; no solution can cost less than {}", money(cost.bound))
    };
    format!(
        "Pipe sizes, {} (looped): pipe cost {} at company prices; {least}",
        sized(&cost.of, job),
        money(cost.cost),
    )
}

/// What the sizes of a main or lateral can't keep.
fn size_short(short: &SizeShort, job: &Job) -> String {
    let u = job.units;
    let of = sized(&short.of, job);
    match short.short {
        Short::Pressure(lack) => format!(
            "Pipe sizes, {of}: at full flow, even the largest pipe leaves the weakest head {} below target",
            lack.show(u)
        ),
        Short::Spread(spread) => format!(
            "Pipe sizes, {of}: elevation and distance cause {} of pressure variation whatever the pipe size",
            spread.show(u)
        ),
        Short::Velocity(_, speed) => {
            format!("Pipe sizes, {of}: velocity is {} even in the largest pipe", speed.show(u))
        }
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
pub fn pipes_said(report: &PipesReport, job: &Job) -> String {
    let u = job.units;
    let money = |sum: f64| estimate(sum, &job.rules.buying.currency);
    let dug = report.earthwork.length();
    format!(
        "{} of trench, {}; {} at company prices (lower bound {}): trench {}, crossings {}, pipe {}, tees \
            {}, boxes {}",
        dug.show_whole(u),
        counted(report.earthwork.crossings.len(), "pavement crossing"),
        money(report.costs.total()),
        money(report.least_cost),
        money(report.costs.trench),
        money(report.costs.crossings),
        money(report.costs.pipe),
        money(report.costs.tees),
        money(report.costs.boxes),
    )
}

/// Strands, gauge and volts in a sentence.
pub fn wire_said(wire: &Wire, job: &Job) -> String {
    let u = job.units;
    let rules = &job.rules.trench;
    let gauge = match wire.gauge {
        Some(gauge) => format!("{gauge} AWG drops {:.1} V to the farthest valve", wire.drop_volts),
        None => format!(
            "even 12 AWG drops {:.1} V to the farthest valve; the limit is {:.0} V",
            wire.drop_volts,
            rules.controller_volts - rules.solenoid_volts
        ),
    };
    format!(
        "{}: {} wires (1 common, 1 per valve, {} spare{}), {} total with slack; {gauge} at {} and {} A",
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
        either(u, "usual limit in plastic pipe: 5 ft/s", "usual limit in plastic pipe: 1.5 m/s"),
    )
    .with("Q", flow.show(u))
    .with("d, inside diameter", inside.show_bore(u))
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
        "Hazen-Williams, plus the company's allowance for fittings",
    )
    .with("L", length.show(u))
    .with("fittings", format!("plus {:.0}%", job.rules.fittings * 100.0))
    .with("Q", flow.show(u))
    .with("C", format!("{c:.0}"))
    .with("d, inside diameter", inside.show_bore(u))
    .gives(drop.show(u))
}

/// A drawn pipe by what it is and whose: `PVC class 200 3/4 in lateral of valve 2 (Front lawn)`.
fn pipe_name(leg: &str, job: &Job) -> String {
    let Some(leg) = job.piping.leg(leg) else {
        return "Pipe".into();
    };
    let size = job.catalogue().pipe(&leg.pipe).map_or_else(String::new, Pipe::title);
    match &leg.of {
        LegOf::Main(supply) => format!("{size} mainline of {}", name_of(job, supply)),
        LegOf::Lateral(valve) => format!("{size} lateral of {}", name_of(job, valve)),
    }
}

/// A place of the plan by what it is called.
pub fn place(at: &str, job: &Job) -> String {
    match (job.valve(at), job.piping.leg(at)) {
        (Some(valve), _) => format!("valve {} {}", job.valve_number(at), valve.name),
        (_, Some(_)) => pipe_name(at, job),
        _ => at.to_owned(),
    }
}

/// Findings of drawn pipe, in words.
pub(crate) fn of_pipe(check: &Check, job: &Job) -> Option<Said> {
    let u = job.units;
    let practice = "practice; local code and site knowledge decide";
    Some(match check {
        Check::PipeUnder { leg, what, length } => said(
            format!("Pipe under {what}"),
            format!(
                "{} runs {} under {what}, where it cannot be dug up or repaired. Bend it around or reroute \
                    it. Have utilities marked before digging.",
                pipe_name(leg, job),
                length.show(u)
            ),
            Working::new("pipe length under it", practice).gives(length.show(u)),
        ),
        Check::PipeThroughRoots { leg, what, length } => said(
            "Pipe through roots",
            format!(
                "{} runs {} inside the root zone of {what} (half the canopy radius). Route around it, or \
                    hand-dig and keep roots thicker than a thumb.",
                pipe_name(leg, job),
                length.show(u)
            ),
            Working::new("length within half the canopy radius", practice).gives(length.show(u)),
        ),
        Check::UnsleevedCrossing { leg, what, length } => said(
            "Crossing without a sleeve",
            format!(
                "{} crosses {what} for {} without a sleeve and cannot be replaced once paved. Add a sleeve \
                    two sizes larger, {} beyond both edges, plus a spare.",
                pipe_name(leg, job),
                length.show(u),
                if u.is_metric() { "30 cm" } else { "1 ft" }
            ),
            Working::new("pipe length under pavement", practice).gives(length.show(u)),
        ),
        Check::AboveFrost { leg, depth, frost } => said(
            "Pipe above frost depth",
            format!(
                "{} is {} deep; frost or code depth is {}, and no drain valve empties it. Lay it deeper, \
                    add a drain at the low end, or blow it out every fall.",
                pipe_name(leg, job),
                self::depth(*depth, u),
                self::depth(*frost, u)
            ),
            Working::new("depth of cover ≥ frost or code depth", "company standard: frost or code depth")
                .with("depth", depth.show(u))
                .with("required", frost.show(u))
                .gives("too shallow"),
        ),
        Check::OffMain {} => said(
            "Mainline does not reach this valve",
            "The drawn mainline does not reach this valve's box, so the typed mainline length is used. \
                Reroute, or draw the mainline to the box.",
            Working::new("mainline from the point of connection to the valve box", "the plan")
                .gives("not connected"),
        ),
        Check::HeadOffLateral { heads, of } => said(
            "Heads not connected to a lateral",
            format!(
                "{heads} of {} {} not connected to a drawn lateral. {} calculated with a straight pipe from \
                    the nearest joint. Reroute the zone or draw pipe to {}.",
                counted(*of, "head"),
                one(*heads, "is", "are"),
                one(*heads, "It is", "They are"),
                one(*heads, "it", "them")
            ),
            Working::new("heads reached by the drawn pipe", "the plan")
                .gives(format!("{} of {of}", of - heads)),
        ),
        Check::LateralLong { pipe, follows, counts, needs } => said(
            "Lateral longer than needed",
            format!(
                "{} of pipe{}; {} would connect its heads in straight lines. Reroute the zone and compare.",
                pipe.show(u),
                if follows.m() < 0.5 {
                    String::new()
                } else {
                    format!(", {} of it in shared trenches", follows.show(u))
                },
                needs.show(u)
            ),
            Working::new(
                "pipe drawn (pipe in a shared trench counted at pipe cost only) ÷ shortest straight \
                    connection",
                "shortest tree (Prim 1957); company prices; reported from 25% over",
            )
            .with("pipe drawn", pipe.show(u))
            .with("in shared trenches", follows.show(u))
            .with("counts as", counts.show(u))
            .with("shortest", needs.show(u))
            .gives(format!("{:.2}", *counts / *needs)),
        ),
        Check::BoxMisplaced { name, why } => said(
            "Valve box in a bad spot",
            format!("{name}: {}. Move it where it can be reached for service.", bad_place(why, job)),
            Working::new("location", practice).gives("move it"),
        ),
        Check::JointUnmade { at, wanted } => said(
            "No fitting for this joint",
            format!(
                "{} needs a {wanted}, which is not in the catalog. Use another pipe size or type there, or \
                    parts whose ends match.",
                place(at, job)
            ),
            Working::new("what meets there", "fittings in the catalog").gives(wanted.clone()),
        ),
        Check::BoxFull { name, valves, filters, most, .. } => {
            let kits = kits(*filters);
            said(
                "Valve box too small",
                format!(
                    "{name} holds {}{kits}; the largest box takes {most} (a filter counts as one). Add a \
                        second valve box next to it.",
                    counted(*valves, "valve")
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
