use crate::assembly::of_assembly;
use crate::checks::{of_drip, of_heads, of_system};
use crate::layout::expected_working;
use crate::layout::unreached;
use crate::names::{either, kind, nozzle};
use crate::piping::contents;
use crate::said::{Said, counted, one, said};
use crate::water::{curve_fault, design_working};
use crate::working::{Working, percent};
use crate::zoning::apart;
use fenlo_core::coverage::FAULT_BELOW;
use fenlo_core::findings::{Check, Finding};
use fenlo_core::job::Job;
use fenlo_core::plan::Regulation;
use fenlo_core::remedies::{Action, Effect, Remedy};
use fenlo_core::units::{Pressure, UnitSystem};
use fenlo_core::zone::RegulatorPart;

/// A regulator that is fitted: its model, or the bodies with what they are made for.
pub fn regulator(part: &RegulatorPart, set: Pressure, u: UnitSystem) -> String {
    match part {
        RegulatorPart::Bodies => format!("Regulated bodies at {}", set.show_round(u)),
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
        .or_else(|| crate::open::of_open(&finding.check, u))
        .expect("every check has its words: a test makes one of each")
}

fn of_supply(check: &Check, u: UnitSystem) -> Option<Said> {
    Some(match check {
        Check::WaterUnknown { supply, fault } => said(
            "Water supply not entered",
            format!("{supply}: {}.", curve_fault(fault, u)),
            Working::new("p = p₀ − K·q^1.852", "flow-test form").gives("no supply curve yet"),
        ),
        Check::StaticHigh {
            static_pressure,
            limit,
        } => said(
            format!("Static pressure above {}", limit.show_round(u)),
            format!(
                "Highest static reading is {}. Above {}, plumbing codes commonly require a \
                    pressure-reducing valve on the building's supply. One downstream of the irrigation \
                    backflow preventer does not protect the building. Check local code.",
                static_pressure.show(u),
                limit.show_round(u)
            ),
            Working::new("static pressure vs. usual code limit", "check local code")
                .with("static", static_pressure.show(u))
                .gives("above limit"),
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
                "Readings do not agree",
                format!(
                    "One reading is {} off the curve fitted to all of them. Read both values again at the \
                        same place and hour.",
                    residual.show(u)
                ),
                Working::new(
                    "p = p₀ − K·q^1.852, K = Σ(p₀ − p)·q^1.852 / Σ q^3.704",
                    "flow-test form (NFPA 291, AWWA M17); Hazen-Williams exponent",
                )
                .with("p₀, lowest static pressure", static_pressure.show(u))
                .with("readings with water running", pairs.join(", "))
                .gives(format!("largest error {}", residual.show(u))),
            )
        }
        Check::StaticOnly { static_pressure, tap } => said(
            "Only static pressure is known",
            format!(
                "Meter and pipe commonly take {} or more once water runs (rule of thumb). To know how \
                    much, {}.",
                Pressure::from_psi(20.0).show_round(u),
                match tap {
                    true => "time a bucket with the hose bib wide open, or read the pressure at a known flow",
                    false => "read the pressure at a known flow, or add the service line and meter on Water",
                }
            ),
            Working::new("p = p₀ − K·q^1.852", "flow-test form")
                .with("p₀", static_pressure.show(u))
                .with("readings with water running", "none")
                .gives("K unknown"),
        ),
        Check::NoBackflow {} => said(
            "No backflow preventer",
            "Every connection to drinking water needs the backflow preventer and installation height that \
                local code requires, tested by a certified tester. Add it on Water.",
            Working::new("backflow preventer upstream of all zone valves", "check local code").gives("missing"),
        ),
        Check::InjectionUnprotected { device } => said(
            "Fertilizer could reach the drinking water",
            match device {
                Some(label) => format!(
                    "{label} does not protect against chemical injection. Codes ask for a reduced-pressure \
                        assembly, or a source with no connection to drinking water."
                ),
                None => "Chemical injection needs a reduced-pressure assembly upstream, or a source with no connection to drinking water. Local code decides."
                    .to_owned(),
            },
            Working::new(
                "reduced-pressure assembly upstream of the injector, or a non-potable source",
                "practice; check local code",
            )
            .gives("missing"),
        ),
        Check::StoreSmall { holds, day } => said(
            "Tank runs empty within a day",
            format!(
                "The tank holds {}; one day in the peak week needs {}. Use a larger tank, add a second \
                    source, or water fewer plants from it.",
                holds.show(u),
                day.show(u)
            ),
            Working::new(
                "tank volume ≥ need of one day",
                "peak week's need of its areas ÷ 7",
            )
            .with("need of one day", day.show(u))
            .gives(holds.show(u)),
        ),
        Check::NoFlow { design } => said(
            "No flow left at the pressure the heads need",
            "At the pressure the most demanding zone needs, the supply delivers no flow. Use lower-pressure \
                heads or drip, or add a booster pump.",
            design_working(design, u),
        ),
        _ => return None,
    })
}

fn of_pressure(check: &Check, u: UnitSystem) -> Option<Said> {
    Some(match check {
        Check::HeadStarved { arrives, inlet, band, before_lateral } => said(
            "Too little pressure at the weakest head",
            format!(
                "The weakest head gets {}; rated {}, minimum {}. Loss between valve and head: {}.",
                arrives.show(u),
                band.best.show_round(u),
                band.least.show_round(u),
                (*before_lateral - *inlet).show(u)
            ),
            Working::new(
                "nozzle pressure ≥ minimum for this head type",
                "solved hydraulics; pressure range typical for this head type",
            )
            .with("pressure at the nozzle", arrives.show(u))
            .with("minimum", band.least.show(u))
            .with("rated", band.best.show(u))
            .with("at the start of the lateral", before_lateral.show(u))
            .gives(format!("{} short", (band.least - *arrives).show(u))),
        ),
        Check::PressureHigh { highest, band, flow, nominal_flow, bubbler } => {
            let over = (*highest / band.best - 1.0) * 100.0;
            let more = (*flow / *nominal_flow - 1.0) * 100.0;
            let what = if *bubbler { "basins overflow" } else { "misting and drift" };
            said(
                "Pressure too high",
                format!(
                    "Highest nozzle pressure is {}, rated {} ({over:+.0}%): {what}, and {more:+.0}% water.",
                    highest.show(u),
                    band.best.show_round(u)
                ),
                Working::new(
                    "excess = p / rated − 1; flow follows √(p / rated)",
                    "orifice flow; up to 15% above rated is usual practice",
                )
                .with("highest nozzle pressure", highest.show(u))
                .with("rated pressure", band.best.show(u))
                .with(
                    "zone flow now / at rated pressure",
                    format!("{} / {}", flow.show(u), nominal_flow.show(u)),
                )
                .gives(format!("{over:+.0}% pressure, {more:+.0}% water")),
            )
        }
        Check::FlowOverDesign { heads, flow, design, assumed } => {
            let (basis, designed) = if *assumed {
                ("company default; read the pressure with water running to replace it", "assumed to deliver")
            } else {
                ("design flow: see Water; margin: company standard", "limited to")
            };
            said(
                "Zone flow above design flow",
                format!(
                    "The heads use {}; the supply is {designed} {}. Split the zone or lower the pressure.",
                    flow.show(u),
                    design.show(u)
                ),
                Working::new("sum of head flows at solved pressure ≤ design flow", basis)
                    .with("heads", heads.to_string())
                    .with("Σ", flow.show(u))
                    .with("design flow", design.show(u))
                    .gives(format!("{} over", (*flow - *design).show(u))),
            )
        }
        Check::Spread { lowest, highest, nominal, spread, limit } => said(
            "Pressure varies too much between heads",
            format!(
                "Nozzle pressure runs from {} to {}, a variation of {} of rated; limit {}. Use larger pipe, \
                    feed the lateral in the middle, or use regulated bodies.",
                lowest.show(u),
                highest.show(u),
                percent(*spread),
                percent(*limit)
            ),
            Working::new(
                "variation = (highest − lowest) / rated",
                "company standard: 20% pressure variation is about 10% flow variation",
            )
            .with("highest", highest.show(u))
            .with("lowest", lowest.show(u))
            .with("rated", nominal.show(u))
            .gives(percent(*spread)),
        ),
        Check::Velocity { velocity, watch, stop, first_leg, flow } => {
            let at = if *first_leg { "in the first lateral section" } else { "in the lateral" };
            said(
                format!("Pipe velocity {}", velocity.show(u)),
                format!(
                    "Water runs at {} {at}. Above {} water hammer gets heavy; the limit is {}. Use larger \
                        pipe or split the zone.",
                    velocity.show(u),
                    watch.show(u),
                    stop.show(u)
                ),
                Working::new(
                    "v = Q / (π d² / 4)",
                    "limits: company standard; surge Δp = ρ·a·v (Joukowsky 1898)",
                )
                .with("flow of the zone", flow.show(u))
                .with("watch above / stop above", format!("{} / {}", watch.show(u), stop.show(u)))
                .gives(velocity.show(u)),
            )
        }
        _ => return None,
    })
}

fn of_fitting(check: &Check, u: UnitSystem) -> Option<Said> {
    Some(match check {
        Check::NoRoom { part, inlet, set, wanted, room } => said(
            "Inlet pressure too low for the regulator",
            format!(
                "{}: inlet pressure is {}; it needs {} + {} headroom. Its outlet will follow the inlet \
                    instead of holding the setting.",
                regulator(part, *set, u),
                inlet.show(u),
                set.show_round(u),
                wanted.show_round(u)
            ),
            Working::new(
                "headroom = inlet − setting",
                format!("about {}, company standard", Pressure::from_psi(10.0).show_round(u)),
            )
            .with("inlet", inlet.show(u))
            .with("setting", set.show(u))
            .with("required", wanted.show(u))
            .gives(room.show(u)),
        ),
        Check::RegulatorFlow { part, flow, least, most } => {
            let what = if flow < least {
                "below that a regulator hunts or creeps"
            } else {
                "above that its own pressure loss gets too large"
            };
            let (flow, least, most) = (flow.show(u), least.show(u), most.show(u));
            let name = regulator(part, Pressure::ZERO, u);
            said(
                "Flow outside the regulator's range",
                format!("{name}: zone flow is {flow}, its range is {least} to {most}; {what}."),
                Working::new("minimum ≤ Q ≤ maximum", "typical for this type")
                    .with("Q", flow)
                    .with("range", format!("{least} to {most}"))
                    .gives("outside its range"),
            )
        }
        Check::ValveMinFlow { valve, flow, least } => said(
            "Flow too low for the valve",
            format!(
                "{valve} needs at least {} to close reliably; this zone uses {}. Fit a low-flow valve or \
                    add heads.",
                least.show(u),
                flow.show(u)
            ),
            Working::new("Q ≥ minimum flow of the valve", "typical for this type")
                .with("Q", flow.show(u))
                .with("least", least.show(u))
                .gives("too little"),
        ),
        Check::MixedNever { a, b, reasons, rate_ratio, .. }
        | Check::Mixed { a, b, reasons, rate_ratio, .. } => {
            let never = matches!(check, Check::MixedNever { .. });
            let reasons: Vec<String> = reasons.iter().map(|r| apart(r.reason, u)).collect();
            said(
                if never { "These cannot share a valve" } else { "These should not share a valve" },
                format!("{a} and {b}: {}.", reasons.join("; ")),
                Working::new(
                    "everything on one valve gets the same run time",
                    "practice: rate ratio above 1.15 watch, above 1.5 stop",
                )
                .with("highest rate / lowest on this valve", format!("{rate_ratio:.2}"))
                .gives(if never {
                    "separate valves"
                } else {
                    "separate, unless you decide otherwise"
                }),
            )
        }
        _ => return None,
    })
}

fn of_area(check: &Check, job: &Job) -> Option<Said> {
    let u = job.units;
    Some(match check {
        Check::ThrowOverDry { share, worst, on_worst, flow } => said(
            "Overspray on pavement or buildings",
            format!(
                "{:.1}% of the water lands on no-spray areas, most of it on {worst}. Wet pavement is \
                    slippery and wet walls rot. Adjust arc or radius, or move heads.",
                share * 100.0
            ),
            Working::new(
                "water on no-spray areas ÷ flow of the heads, limit 3%",
                "simulated catch-can grid; company standard",
            )
            .with(format!("on {worst}"), on_worst.show(u))
            .with("flow", flow.show(u))
            .gives(format!("{:.1}%", share * 100.0)),
        ),
        Check::BeyondAdjustment { heads, set, nozzle: id, least, full } => {
            let name = job.catalogue().nozzle(id).map_or_else(|| id.clone(), |n| nozzle(n, u));
            said(
                "Radius outside the nozzle's range",
                format!(
                    "{} {} set to a radius of {}. {name} adjusts only from {} to {}.",
                    counted(*heads, "head"),
                    one(*heads, "is", "are"),
                    set.show(u),
                    least.show(u),
                    full.show(u)
                ),
                Working::new(
                    "0.75 × full radius ≤ radius ≤ full radius",
                    "radius screw, typical for this type",
                )
                .with("full", full.show(u))
                .with("set", set.show(u))
                .gives(format!("{} of full", percent(*set / *full))),
            )
        }
        Check::WrongPressure { heads, worst, band } => {
            let (least, most) = (band.least.show_round(u), band.most.show_round(u));
            let what = if *worst < band.least {
                "Too low: the area between heads stays dry."
            } else {
                "Too high: the spray mists and drifts."
            };
            said(
                "Nozzle pressure outside its range",
                format!(
                    "{} {} outside {least} to {most}; the worst has {}. {what}",
                    counted(*heads, "head"),
                    one(*heads, "runs", "run"),
                    worst.show(u)
                ),
                Working::new(
                    "minimum ≤ nozzle pressure ≤ maximum",
                    "range typical for this type; pressure solved for the zone",
                )
                .with("minimum", least)
                .with("maximum", most)
                .gives(worst.show(u)),
            )
        }
        Check::MixedRates { high, low } => said(
            "Mixed precipitation rates in one area",
            format!(
                "Head types here apply {} and {}. No run time suits both: one gets too much or the other \
                    too little. Use one head type per area.",
                high.show(u),
                low.show(u)
            ),
            Working::new("highest rate ÷ lowest rate", "practice: above 1.15 watch, above 1.5 stop")
                .with("highest", high.show(u))
                .with("lowest", low.show(u))
                .gives(format!("{:.2}", high.mmph() / low.mmph().max(1e-9))),
        ),
        Check::AtTheEdge { heads, of, nearest, wanted } => said(
            "Heads too close to the edge",
            format!(
                "{} {} closer than {} to an edge (nearest {}). Mower, edger and frost damage {}. Move {} in.",
                counted(*heads, "head"),
                one(*heads, "is", "are"),
                wanted.show_tape(u),
                nearest.show_tape(u),
                one(*heads, "it", "them"),
                one(*heads, "it", "them")
            ),
            Working::new(
                format!("distance to the edge ≥ {}", wanted.show_tape(u)),
                format!("practice: {}", either(u, "2 to 4 in", "5 to 10 cm")),
            )
            .with("nearest", nearest.show_tape(u))
            .gives(format!("{heads} of {}", counted(*of, "head"))),
        ),
        Check::UnwateredPart { part, parts, share } => {
            let more = if *parts > 1 { format!(" {parts} such spots in total.") } else { String::new() };
            said(
                "Part of the area gets no water",
                format!("{}.{more}", unreached(part, u)),
                Working::new("grid cells below 10% of the mean rate", "simulated catch-can grid")
                    .gives(format!("{:.1}% of the area", share * 100.0)),
            )
        }
        Check::Uneven { ideal, expected, aim, kind: what } => {
            let text = if *ideal < FAULT_BELOW {
                format!(
                    "DU is {ideal:.2} even with perfect heads and no wind, so the layout is the cause. \
                        Expect about {:.2} in an audit.",
                    expected.du
                )
            } else {
                format!(
                    "Expect DU of about {:.2} in an audit; target for {} is {aim:.2}. To water the driest \
                        quarter fully, the rest gets {:.0}% too much.",
                    expected.du,
                    kind(*what).to_lowercase(),
                    100.0 * (1.0 / expected.du.max(0.05) - 1.0)
                )
            };
            said("Low uniformity", text, expected_working(*ideal, expected, *what))
        }
        _ => return None,
    })
}

/// What a remedy does, on its button.
pub fn action(action: &Action, job: &Job) -> String {
    let u = job.units;
    match action {
        Action::FeedInMiddle(more) => format!("Feed lateral in the middle ({} more pipe)", more.show(u)),
        Action::Lateral(pipe) => format!("Change lateral to {pipe}"),
        Action::FirstLeg(pipe) => format!("Change first section to {pipe}"),
        Action::SplitInTwo => "Split into two valves".into(),
        Action::OwnValve(area) => format!("Move {area} to its own valve"),
        Action::Fit(Regulation::None, _) => "Remove regulator".into(),
        Action::Fit(Regulation::Valve { set }, _) => {
            format!("Add regulator on valve, set {}", set.show_round(u))
        }
        Action::Fit(Regulation::Inline { set }, _) => {
            format!("Add in-line regulator, {}", set.show_round(u))
        }
        Action::Fit(Regulation::Body { set }, heads) => {
            let bodies = one(*heads, "regulated body", "regulated bodies");
            format!("Use {heads} {bodies}, {}", set.show_round(u))
        }
        Action::LowFlowValve => "Use a low-flow valve".into(),
        Action::Filter => "Add screen filter after the valve".into(),
        Action::DripCloser { rows: true, apart } => format!("Space rows at most {}", apart.show_tape(u)),
        Action::DripCloser { rows: false, apart } => format!("Space emitters every {}", apart.show_tape(u)),
        Action::DripParts(n) => format!("Split into {n} parts, one valve each"),
        Action::DripAlongContour => "Run rows along the contour".into(),
        Action::LargerFilter(label) => format!("Change to {label}"),
        Action::MatchArcs(arcs) => {
            let each: Vec<String> = arcs
                .iter()
                .map(|(arc, id)| {
                    let known = job.catalogue().nozzle(id).map(|n| nozzle(n, u));
                    format!("{arc}° {}", known.as_ref().unwrap_or(id))
                })
                .collect();
            format!("Match nozzles to arcs: {}", each.join(", "))
        }
        Action::SetArcs(to) => format!("Set arcs to {to}°"),
        Action::LargerDevice(label) => format!("Use {label}"),
        Action::SetSystem(set) => format!("Set system regulator to {}", set.show_round(u)),
        Action::SystemRegulator(set) => format!(
            "Add pressure-reducing valve upstream of the backflow preventer, set {}",
            set.show_round(u)
        ),
        Action::LayOutAnew(what) => format!("Redo layout with {}", kind(*what).to_lowercase()),
        Action::SetThrows => "Set radius within range".into(),
        Action::MoveIn => "Move heads in".into(),
        Action::Reroute => "Reroute lateral".into(),
        Action::Sleeves(1) => "Add a sleeve".into(),
        Action::Sleeves(n) => format!("Add {n} sleeves"),
        Action::Deeper(depth) => format!("Lower pipe to {}", depth.show_tape(u)),
        Action::SecondBox => "Add a second valve box".into(),
    }
}

/// What a remedy gives, computed on the whole job, whether that is enough, and what it brings with it.
pub fn gives(remedy: &Remedy, job: &Job) -> String {
    let mut text = effect(&remedy.effect, job.units);
    if !remedy.mends {
        text += "; helps, but does not fix it alone";
    }
    for cost in &remedy.costs {
        text += &format!("; new finding: {}", crate::inside(&finding(cost, job).title));
    }
    text
}

/// What a remedy gives, computed.
pub fn effect(effect: &Effect, u: UnitSystem) -> String {
    match effect {
        Effect::LastHead(p) => format!("{} at the weakest head", p.show(u)),
        Effect::VelocityAndLastHead(v, p) => format!("{}, {} at the weakest head", v.show(u), p.show(u)),
        Effect::TwoZones([(a, low_a), (b, low_b)]) => format!(
            "flows {} and {}, weakest heads {} and {}",
            a.show(u),
            b.show(u),
            low_a.show(u),
            low_b.show(u)
        ),
        Effect::HereAndThere(here, there) => {
            format!("{} here, {} on the other valve", here.show(u), there.show(u))
        }
        Effect::Range(low, high) => format!("heads at {} to {}", low.number(u), high.show(u)),
        Effect::Caps => "limits pressure at the zone valves".into(),
        Effect::Starved(0, 1) => "the zone stays in range".into(),
        Effect::Starved(0, of) => format!("all {of} zones stay in range"),
        Effect::Starved(n, of) => format!("{n} of {} would drop below range", counted(*of, "zone")),
        Effect::Layout { heads, du, on_dry } => {
            format!("{}, DU {du:.2}, {:.1}% overspray", counted(*heads, "head"), on_dry * 100.0)
        }
        Effect::RateRatio(ratio) => format!("highest to lowest rate {ratio:.2}"),
        Effect::Throws(least, full) => format!("{} to {}", least.show(u), full.show(u)),
        Effect::OffEdge(off) => format!("{} from the edge", off.show_tape(u)),
        Effect::Pipe { becomes, was } => format!("{} of pipe instead of {}", becomes.show(u), was.show(u)),
        Effect::Sleeved { length } => format!("{} under pavement, two sizes larger", length.show(u)),
        Effect::Legs(1) => "one section".into(),
        Effect::Legs(n) => format!("{n} sections"),
        Effect::Boxes(stays, goes) => format!("{} stay, {} move", contents(*stays), contents(*goes)),
    }
}
