use crate::assembly::of_assembly;
use crate::checks::{of_drip, of_heads, of_system};
use crate::layout::{expected_working, unreached};
use crate::names::{either, kind, nozzle};
use crate::piping::contents;
use crate::said::{Said, said};
use crate::water::{curve_fault, design_working};
use crate::working::{Working, percent};
use crate::zoning::apart;
use fenlo_core::coverage::FAULT_BELOW;
use fenlo_core::findings::{Action, Check, Effect, Finding, Remedy};
use fenlo_core::job::Job;
use fenlo_core::plan::Regulation;
use fenlo_core::units::{Pressure, UnitSystem};
use fenlo_core::zone::RegulatorPart;

/// A regulator that is fitted: its model, or the bodies with what they are made for.
pub fn regulator(part: &RegulatorPart, set: Pressure, u: UnitSystem) -> String {
    match part {
        RegulatorPart::Bodies => format!("Bodies at {}", set.show_round(u)),
        RegulatorPart::Model(label) => label.clone(),
    }
}

/// What a finding says, in the units of the job.
pub fn finding(finding: &Finding, job: &Job) -> Said {
    let u = job.units;
    of_supply(&finding.check, u)
        .or_else(|| of_pressure(&finding.check, u))
        .or_else(|| of_fitting(&finding.check, u))
        .or_else(|| of_drip(&finding.check, u))
        .or_else(|| of_assembly(&finding.check, u))
        .or_else(|| of_system(&finding.check, u))
        .or_else(|| of_heads(&finding.check, u))
        .or_else(|| crate::piping::of_pipe(&finding.check, job))
        .or_else(|| of_area(&finding.check, job))
        .expect("every check has its words: a test makes one of each")
}

fn of_supply(check: &Check, u: UnitSystem) -> Option<Said> {
    Some(match check {
        Check::WaterUnknown { supply, fault } => said(
            "Water not known yet",
            format!("{supply}: {}.", curve_fault(fault, u)),
            Working::new("p = p₀ − K·q^1.852", "flow-test form").gives("no curve"),
        ),
        Check::StaticHigh {
            static_pressure,
            limit,
        } => said(
            format!("Static over {}", limit.show_round(u)),
            format!(
                "{} static, the highest read: plumbing codes commonly want a reducing valve on the \
                    building's \
                 supply over {}. One behind the irrigation's backflow device doesn't protect the building. \
                 Ask the local code.",
                static_pressure.show(u),
                limit.show_round(u)
            ),
            Working::new("static against the usual code limit", "local code to check")
                .with("static", static_pressure.show(u))
                .gives("over"),
        ),
        Check::ReadingsScatter {
            residual,
            pairs,
            static_pressure,
            ..
        } => {
            let pairs: Vec<String> = pairs
                .iter()
                .map(|(q, p)| format!("{} at {}", p.show(u), q.show(u)))
                .collect();
            said(
                "Readings don't agree",
                format!(
                    "One reading is {} off the curve through all of them: read again at one place and hour.",
                    residual.show(u)
                ),
                Working::new(
                    "p = p₀ − K·q^1.852, K = Σ(p₀ − p)·q^1.852 / Σ q^3.704",
                    "flow-test form (NFPA 291, AWWA M17); Hazen-Williams exponent",
                )
                .with("p₀, the lowest static", static_pressure.show(u))
                .with("pairs with water running", pairs.join(", "))
                .gives(format!("{} off at most", residual.show(u))),
            )
        }
        Check::StaticOnly { static_pressure, tap } => said(
            "Static alone",
            format!(
                "With water running, meter and pipe eat {} and more: {}.",
                Pressure::from_psi(20.0).show_round(u),
                match tap {
                    true => "time a bucket with the tap wide open, or read pressure at a known flow",
                    false => "read pressure at a known flow, or add service line and meter to the chain",
                }
            ),
            Working::new("p = p₀ − K·q^1.852", "flow-test form")
                .with("p₀", static_pressure.show(u))
                .with("pairs with water running", "none")
                .gives("K not known"),
        ),
        Check::NoBackflow {} => said(
            "No backflow protection in the chain",
            "Every connection to drinking water needs the device that the local code names, at the height \
             it names, tested by a certified person.",
            Working::new("a backflow device upstream of all valves", "local code to check").gives("missing"),
        ),
        Check::InjectionUnprotected { device } => said(
            "Fertiliser could reach the drinking water",
            match device {
                Some(label) => format!(
                    "{label} is not enough where something is put into the water: the reduced-pressure \
                        assembly is \
                     what codes ask for, or a source that is not tied to the house."
                ),
                None => "Where something is put into the water a reduced-pressure assembly stands before \
                    it, or the \
                         source is not tied to the house. The local code decides."
                    .to_owned(),
            },
            Working::new(
                "reduced-pressure assembly upstream of what is injected, or water that is not for drinking",
                "practice; local code to check",
            )
            .gives("missing"),
        ),
        Check::StoreSmall { holds, day } => said(
            "The store is empty before the next day",
            format!(
                "It holds {}; a day of the peak week takes {}. A larger tank, a second source, or fewer \
                    plants on it.",
                holds.show(u),
                day.show(u)
            ),
            Working::new(
                "what it holds ≥ a day's need",
                "peak week's need of its areas ÷ 7",
            )
            .with("a day takes", day.show(u))
            .gives(holds.show(u)),
        ),
        Check::NoFlow { design } => said(
            "The heads want more than the water gives",
            "At the pressure that the neediest zone wants no flow is left: lower-pressure heads, drip, or a \
             booster pump.",
            design_working(design, u),
        ),
        _ => return None,
    })
}

fn of_pressure(check: &Check, u: UnitSystem) -> Option<Said> {
    Some(match check {
        Check::HeadStarved {
            arrives,
            inlet,
            band,
            before_lateral,
        } => said(
            "Last head starves",
            format!(
                "{} arrive, {} are best, {} the least. From the valve to that head {} are lost.",
                arrives.show(u),
                band.best.show_round(u),
                band.least.show_round(u),
                (*before_lateral - *inlet).show(u)
            ),
            Working::new(
                "pressure at the head against the least of its kind",
                "physics (network solved); typical of the class for the band",
            )
            .with("arrives at the nozzle", arrives.show(u))
            .with("least usable", band.least.show(u))
            .with("best", band.best.show(u))
            .with("before the lateral", before_lateral.show(u))
            .gives(format!("{} short", (band.least - *arrives).show(u))),
        ),
        Check::PressureHigh {
            highest,
            band,
            flow,
            nominal_flow,
            bubbler,
        } => {
            let over = (*highest / band.best - 1.0) * 100.0;
            let more = (*flow / *nominal_flow - 1.0) * 100.0;
            let what = if *bubbler { "basins overflow" } else { "fog, drift" };
            said(
                "Pressure too high",
                format!(
                    "{} at the first head where {} are best ({over:+.0} %): {what} and {more:+.0} % water.",
                    highest.show(u),
                    band.best.show_round(u)
                ),
                Working::new(
                    "over = p / nominal − 1; water follows √(p / nominal)",
                    "orifice flow; 15 % allowed over nominal, usual practice",
                )
                .with("highest nozzle", highest.show(u))
                .with("nominal", band.best.show(u))
                .with(
                    "zone takes / would take",
                    format!("{} / {}", flow.show(u), nominal_flow.show(u)),
                )
                .gives(format!("{over:+.0} % pressure, {more:+.0} % water")),
            )
        }
        Check::FlowOverDesign {
            heads,
            flow,
            design,
            assumed,
        } => {
            let (basis, designed) = if *assumed {
                (
                    "assumed by the house's rule: read pressure with water running",
                    "assumed to give",
                )
            } else {
                (
                    "see Water for the design flow; margin is a house rule",
                    "designed for",
                )
            };
            said(
                "More than the design flow",
                format!(
                    "The heads take {}; the supply is {designed} {}.",
                    flow.show(u),
                    design.show(u)
                ),
                Working::new("Σ of head flows at the pressure they get ≤ design flow", basis)
                    .with("heads", heads.to_string())
                    .with("Σ", flow.show(u))
                    .with("design flow", design.show(u))
                    .gives(format!("{} too much", (*flow - *design).show(u))),
            )
        }
        Check::Spread {
            lowest,
            highest,
            nominal,
            spread,
            limit,
        } => said(
            "Uneven pressure",
            format!(
                "{} to {}: {} of nominal apart, {} wanted at most.",
                lowest.show(u),
                highest.show(u),
                percent(*spread),
                percent(*limit)
            ),
            Working::new(
                "spread = (highest − lowest) / nominal",
                "house rule: 20 % of pressure is about 10 % of flow",
            )
            .with("highest", highest.show(u))
            .with("lowest", lowest.show(u))
            .with("nominal", nominal.show(u))
            .gives(percent(*spread)),
        ),
        Check::Velocity {
            velocity,
            watch,
            stop,
            first_leg,
            flow,
        } => {
            let at = if *first_leg {
                "in the first leg"
            } else {
                "in the piping to the heads"
            };
            said(
                format!("Velocity {}", velocity.show(u)),
                format!(
                    "{} {at}; over {} a closing valve strikes hard, {} is the limit.",
                    velocity.show(u),
                    watch.show(u),
                    stop.show(u)
                ),
                Working::new(
                    "v = Q / (π d² / 4)",
                    "house rule for the limits; surge Δp = ρ·a·v (Joukowsky 1898)",
                )
                .with("flow of the zone", flow.show(u))
                .with("watch / stop", format!("{} / {}", watch.show(u), stop.show(u)))
                .gives(velocity.show(u)),
            )
        }
        _ => return None,
    })
}

fn of_fitting(check: &Check, u: UnitSystem) -> Option<Said> {
    Some(match check {
        Check::NoRoom {
            part,
            inlet,
            set,
            wanted,
            room,
        } => said(
            "Regulator has no working room",
            format!(
                "{}: {} arrive where {} + {} are needed. Its outlet may be anywhere between set point and \
                 inlet.",
                regulator(part, *set, u),
                inlet.show(u),
                set.show_round(u),
                wanted.show_round(u)
            ),
            Working::new(
                "room = inlet − set point",
                format!(
                    "practice: about {}, house rule",
                    Pressure::from_psi(10.0).show_round(u)
                ),
            )
            .with("inlet", inlet.show(u))
            .with("set point", set.show(u))
            .with("wanted", wanted.show(u))
            .gives(room.show(u)),
        ),
        Check::RegulatorFlow {
            part,
            flow,
            least,
            most,
        } => {
            let what = if flow < least {
                "below it the regulator hunts or creeps"
            } else {
                "above it costs more pressure than it holds"
            };
            let (flow, least, most) = (flow.show(u), least.show(u), most.show(u));
            let name = regulator(part, Pressure::ZERO, u);
            said(
                "Flow outside the regulator's",
                format!("{name}: {flow} runs, it is made for {least} to {most}; {what}."),
                Working::new("least ≤ Q ≤ most", "typical of the class")
                    .with("Q", flow)
                    .with("band", format!("{least} to {most}"))
                    .gives("outside"),
            )
        }
        Check::ValveMinFlow { valve, flow, least } => said(
            "Too little flow for the valve",
            format!(
                "{valve} needs {} to close reliably; {} runs.",
                least.show(u),
                flow.show(u)
            ),
            Working::new("Q ≥ the valve's least flow", "typical of the class")
                .with("Q", flow.show(u))
                .with("least", least.show(u))
                .gives("too little"),
        ),
        Check::MixedNever {
            a,
            b,
            reasons,
            rate_ratio,
            ..
        }
        | Check::Mixed {
            a,
            b,
            reasons,
            rate_ratio,
            ..
        } => {
            let never = matches!(check, Check::MixedNever { .. });
            let reasons: Vec<String> = reasons.iter().map(|r| apart(r.reason, u)).collect();
            said(
                if never {
                    "These can't share a valve"
                } else {
                    "These had better not share"
                },
                format!("{a} and {b}: {}.", reasons.join("; ")),
                Working::new(
                    "what shares a valve gets the same minutes",
                    "practice; rates over 1.15 apart watch, over 1.5 stop",
                )
                .with("highest rate / lowest on this valve", format!("{rate_ratio:.2}"))
                .gives(if never { "apart" } else { "apart unless you insist" }),
            )
        }
        _ => return None,
    })
}

fn of_area(check: &Check, job: &Job) -> Option<Said> {
    let u = job.units;
    Some(match check {
        Check::ThrowOverDry {
            share,
            worst,
            on_worst,
            flow,
        } => said(
            "Throws over what is kept dry",
            format!(
                "{:.1} % of the water lands on what is to be kept dry, most of it on {worst}. Wet paving is \
                 slippery, wet walls rot.",
                share * 100.0
            ),
            Working::new(
                "water on keep-dry ÷ flow of the heads, under 3 %",
                "simulated on a catch-can grid; house aim",
            )
            .with(format!("on {worst}"), on_worst.show(u))
            .with("flow", flow.show(u))
            .gives(format!("{:.1} %", share * 100.0)),
        ),
        Check::BeyondAdjustment {
            heads,
            set,
            nozzle: id,
            least,
            full,
        } => {
            let name = job
                .catalogue()
                .nozzle(id)
                .map_or_else(|| id.clone(), |n| nozzle(n, u));
            said(
                "Throw beyond the nozzle's adjustment",
                format!(
                    "{heads} heads are set to a throw that their nozzle can't give: {} for {name}, which \
                     goes from {} to {}.",
                    set.show(u),
                    least.show(u),
                    full.show(u)
                ),
                Working::new(
                    "0.75 × full throw ≤ throw ≤ full throw",
                    "adjusting screw, typical of the class",
                )
                .with("full", full.show(u))
                .with("set", set.show(u))
                .gives(format!("{} of full", percent(*set / *full))),
            )
        }
        Check::WrongPressure { heads, worst, band } => {
            let (least, most) = (band.least.show_round(u), band.most.show_round(u));
            let what = if *worst < band.least {
                "Too low, the middle stays dry."
            } else {
                "Too high, the spray turns to fog and drifts."
            };
            said(
                "Wrong pressure for the kind",
                format!(
                    "{heads} heads run outside {least} to {most}: the worst gets {}. {what}",
                    worst.show(u)
                ),
                Working::new(
                    "least ≤ pressure at the nozzle ≤ greatest",
                    "typical of the class; pressures solved for the valve",
                )
                .with("least", least)
                .with("greatest", most)
                .gives(worst.show(u)),
            )
        }
        Check::MixedRates { high, low } => said(
            "Mixed rates in one area",
            format!(
                "Heads of different kinds apply {} and {}: the run time that suits one drowns or starves \
                 the other.",
                high.show(u),
                low.show(u)
            ),
            Working::new(
                "highest rate ÷ lowest rate of the kinds",
                "practice: over 1.15 watch, over 1.5 stop",
            )
            .with("highest", high.show(u))
            .with("lowest", low.show(u))
            .gives(format!("{:.2}", high.mmph() / low.mmph().max(1e-9))),
        ),
        Check::AtTheEdge {
            heads,
            of,
            nearest,
            wanted,
        } => said(
            "Heads at the very edge",
            format!(
                "{heads} heads stand nearer than {} to an edge, the nearest {}: mower, edger and frost get \
                 at them.",
                wanted.show_tape(u),
                nearest.show_tape(u)
            ),
            Working::new(
                format!("distance to the edge ≥ {}", wanted.show_tape(u)),
                format!("practice: {}", either(u, "2 to 4 in", "5 to 10 cm")),
            )
            .with("nearest", nearest.show_tape(u))
            .gives(format!("{heads} of {of} heads")),
        ),
        Check::UnwateredPart { part, parts, share } => {
            let more = if *parts > 1 {
                format!(" {parts} such parts in all.")
            } else {
                String::new()
            };
            said(
                "A part stays dry",
                format!("{}.{more}", unreached(part, u)),
                Working::new(
                    "cells under a tenth of the mean rate",
                    "simulated on a catch-can grid",
                )
                .gives(format!("{:.1} % of the area", share * 100.0)),
            )
        }
        Check::Uneven {
            ideal,
            expected,
            aim,
            kind: what,
        } => {
            let text = if *ideal < FAULT_BELOW {
                format!(
                    "DU {ideal:.2} with perfect heads in still air: the layout itself is at fault; an audit \
                     would find about {:.2}.",
                    expected.du
                )
            } else {
                format!(
                    "An audit would find about DU {:.2}, {aim:.2} is aimed at for {}: to bring the driest \
                        quarter \
                     what it needs, the rest gets {:.0} % too much.",
                    expected.du,
                    kind(*what).to_lowercase(),
                    100.0 * (1.0 / expected.du.max(0.05) - 1.0)
                )
            };
            said(
                "Water lies unevenly",
                text,
                expected_working(*ideal, expected, *what),
            )
        }
        _ => return None,
    })
}

/// What a remedy does, on its button.
pub fn action(action: &Action, u: UnitSystem) -> String {
    match action {
        Action::FeedInMiddle(more) => format!("Feed in the middle, {} more pipe", more.show(u)),
        Action::Lateral(pipe) => format!("Lateral in {pipe}"),
        Action::FirstLeg(pipe) => format!("First leg in {pipe}"),
        Action::SplitInTwo => "Split in two".into(),
        Action::OwnValve(area) => format!("Own valve for {area}"),
        Action::Fit(Regulation::None, _) => "Take the regulator out".into(),
        Action::Fit(Regulation::Valve { set }, _) => {
            format!("Module on the valve, set {}", set.show_round(u))
        }
        Action::Fit(Regulation::Inline { set }, _) => {
            format!("Preset {} behind the valve", set.show_round(u))
        }
        Action::Fit(Regulation::Body { set }, heads) => format!("{heads} bodies at {}", set.show_round(u)),
        Action::LowFlowValve => "Low-flow valve".into(),
        Action::Filter => "Screen filter behind the valve".into(),
        Action::DripCloser { rows: true, apart } => format!("Rows at most {} apart", apart.show_tape(u)),
        Action::DripCloser { rows: false, apart } => format!("Emitters every {}", apart.show_tape(u)),
        Action::DripParts(n) => format!("In {n} parts, each on its own valve"),
        Action::DripAlongContour => "Lay the rows along the contour".into(),
        Action::LargerFilter(label) => format!("{label} instead"),
        Action::MatchArcs(arcs) => {
            let each: Vec<String> = arcs
                .iter()
                .map(|(arc, nozzle)| format!("{arc}° {nozzle}"))
                .collect();
            format!("Each arc its nozzle: {}", each.join(", "))
        }
        Action::SetArcs(to) => format!("Set them to {to}°"),
        Action::SetSystem(set) => format!("Set the system regulator to {}", set.show_round(u)),
        Action::SystemRegulator(set) => format!("System regulator, set {}", set.show_round(u)),
        Action::LayOutAnew(what) => format!("Lay out {} anew", kind(*what).to_lowercase()),
        Action::SetThrows => "Set them to what they can".into(),
        Action::MoveIn => "Move them in".into(),
        Action::Reroute => "Lay the lateral anew".into(),
        Action::Sleeves(1) => "Lay it in a sleeve".into(),
        Action::Sleeves(n) => format!("Lay {n} legs in sleeves"),
        Action::Deeper(depth) => format!("Lay it {} deep", depth.show_tape(u)),
        Action::SecondBox => "Set a second box beside it".into(),
    }
}

/// What a remedy gives, computed on the whole job, whether that is enough, and what it brings with it.
pub fn gives(remedy: &Remedy, job: &Job) -> String {
    let mut text = effect(&remedy.effect, job.units);
    if !remedy.mends {
        text += "; helps, not enough alone";
    }
    for cost in &remedy.costs {
        text += &format!("; but then: {}", crate::inside(&finding(cost, job).title));
    }
    text
}

/// What a remedy gives, computed.
pub fn effect(effect: &Effect, u: UnitSystem) -> String {
    match effect {
        Effect::LastHead(p) => format!("{} at the last head", p.show(u)),
        Effect::VelocityAndLastHead(v, p) => format!("{}, {} at the last head", v.show(u), p.show(u)),
        Effect::TwoZones([(a, low_a), (b, low_b)]) => format!(
            "{} and {}, last heads {} and {}",
            a.show(u),
            b.show(u),
            low_a.show(u),
            low_b.show(u)
        ),
        Effect::HereAndThere(here, there) => format!("{} here, {} there", here.show(u), there.show(u)),
        Effect::Range(low, high) => format!("{} to {}", low.number(u), high.show(u)),
        Effect::Caps => "caps what reaches the valves".into(),
        Effect::Starved(n, of) => format!("{n} of {of} zones then below their band"),
        Effect::Layout { heads, du, on_dry } => {
            format!("{heads} heads, DU {du:.2}, {:.1} % on keep-dry", on_dry * 100.0)
        }
        Effect::RateRatio(ratio) => format!("rates within {ratio:.2} of each other"),
        Effect::Throws(least, full) => format!("{} to {}", least.show(u), full.show(u)),
        Effect::OffEdge(off) => format!("{} off the edge", off.show_tape(u)),
        Effect::Pipe { becomes, was } => format!("{} of pipe for {}", becomes.show(u), was.show(u)),
        Effect::Sleeved { length } => format!("{} under paving, two sizes up", length.show(u)),
        Effect::Legs(1) => "one leg".into(),
        Effect::Legs(n) => format!("{n} legs"),
        Effect::Boxes(stays, goes) => format!("{} stay, {} go", contents(*stays), contents(*goes)),
    }
}
