//! Where to regulate a zone, each way computed by solving the zone with it.

use crate::catalogue::Catalogue;
use crate::network::LinkState;
use crate::plan::{ChainItem, ChainPart, Edit, Plan, Regulation, Valve, apply};
use crate::units::{Pressure, UnitSystem};
use crate::water::supply_curve;
use crate::zone::{ZoneAssessment, assess_zone};

/// Over nominal by more than this share a nozzle wastes water; less is left alone.
pub const OVER_NOMINAL: f64 = 0.15;
/// Spread, as a share of nominal, up to which one regulator on the valve serves all heads.
const EVEN_ENOUGH: f64 = 0.10;
/// Height difference from which bodies regulate better than one valve, feet.
const LEVEL_FT: f64 = 5.0;
/// From so many heads on, bodies are preferred.
const MANY_HEADS: usize = 16;
/// Pressure at the connection from which a system regulator comes first, psi.
pub const SYSTEM_REGULATOR_FROM_PSI: f64 = 100.0;
/// What a system regulator is set above the neediest zone's need there, psi.
const SYSTEM_MARGIN_PSI: f64 = 20.0;

/// One way to regulate.
#[derive(Debug, Clone)]
pub struct RegulationOption {
    /// For people: `On the valve, set 34 psi`.
    pub label: String,
    /// What fits it; `None` for leaving things as they are.
    pub edit: Option<Edit>,
    /// The zone with it.
    pub zone: ZoneAssessment,
    /// Parts to buy.
    pub pieces: usize,
    /// What it does elsewhere or can't do here.
    pub notes: Vec<String>,
    /// False where it can't work: no room, wrong flow band, other zones starve.
    pub works: bool,
}

/// All ways side by side.
#[derive(Debug, Clone)]
pub struct Comparison {
    /// As it is, first.
    pub options: Vec<RegulationOption>,
    /// The one to take.
    pub recommended: usize,
    /// Why.
    pub why: String,
}

/// Compares the ways to regulate a zone. `None` when the zone itself has no figures.
pub fn compare(plan: &Plan, valve: &Valve, catalogue: &Catalogue) -> Option<Comparison> {
    let catalogue = plan.with_own(catalogue);
    let bare = with(plan, valve, Regulation::None, catalogue)?;
    let as_is = if valve.regulation == Regulation::None {
        bare.clone()
    } else {
        assess_zone(plan, valve, catalogue).ok()?
    };
    let units = plan.units;
    let mut options = vec![option(
        plan,
        label(valve.regulation, units),
        None,
        as_is,
        0,
        false,
    )];
    let fit = |regulation| Edit::FitRegulation {
        valve: valve.id.clone(),
        regulation,
    };
    if valve.regulation != Regulation::None {
        options.push(option(
            plan,
            "No regulator".into(),
            Some(fit(Regulation::None)),
            bare.clone(),
            0,
            true,
        ));
    }
    for (regulation, pieces) in candidates(plan, valve, &bare, catalogue) {
        if same(regulation, valve.regulation) {
            continue;
        }
        if let Some(zone) = with(plan, valve, regulation, catalogue) {
            options.push(option(
                plan,
                label(regulation, units),
                Some(fit(regulation)),
                zone,
                pieces,
                true,
            ));
        }
    }
    if !is_drip(&bare, plan, catalogue)
        && let Some(system) = system_option(plan, valve, catalogue)
    {
        options.push(system);
    }
    let (recommended, why) = recommend(plan, valve, &bare, &options, catalogue);
    Some(Comparison {
        options,
        recommended,
        why,
    })
}

/// The way the comparison recommends, for proposals that fit it at once.
pub(crate) fn recommended(plan: &Plan, valve: &Valve, catalogue: &Catalogue) -> Option<Regulation> {
    let bare = with(plan, valve, Regulation::None, catalogue)?;
    if !is_drip(&bare, plan, catalogue)
        && bare.highest().nozzle <= bare.highest().band.0 * (1.0 + OVER_NOMINAL)
    {
        return Some(Regulation::None);
    }
    let wanted = wanted_place(plan, &bare);
    let all = candidates(plan, valve, &bare, catalogue);
    let works = |r: &Regulation| {
        with(plan, valve, *r, catalogue).is_some_and(|z| {
            z.regulator
                .as_ref()
                .is_none_or(|g| g.room >= plan.rules.regulator_room * 0.999)
                && z.lowest().nozzle >= z.lowest().band.1
        })
    };
    let preferred = all.iter().map(|c| c.0).find(|r| {
        matches!(
            (r, wanted),
            (Regulation::Body { .. }, Wanted::Body)
                | (
                    Regulation::Valve { .. } | Regulation::Inline { .. },
                    Wanted::Valve
                )
        ) && works(r)
    });
    preferred
        .or_else(|| all.iter().map(|c| c.0).find(works))
        .or(Some(Regulation::None))
}

fn same(a: Regulation, b: Regulation) -> bool {
    match (a.set(), b.set()) {
        (Some(x), Some(y)) => {
            std::mem::discriminant(&a) == std::mem::discriminant(&b) && (x.psi() - y.psi()).abs() < 0.5
        }
        (None, None) => true,
        _ => false,
    }
}

/// The zone with a regulation in place.
fn with(plan: &Plan, valve: &Valve, regulation: Regulation, catalogue: &Catalogue) -> Option<ZoneAssessment> {
    let changed = Valve {
        regulation,
        ..valve.clone()
    };
    assess_zone(plan, &changed, catalogue).ok()
}

fn is_drip(zone: &ZoneAssessment, plan: &Plan, catalogue: &Catalogue) -> bool {
    zone.heads.iter().any(|h| {
        plan.group(&h.head.group)
            .and_then(|g| catalogue.nozzle(&g.nozzle))
            .is_some_and(|n| n.kind.is_drip())
    })
}

fn label(regulation: Regulation, units: UnitSystem) -> String {
    match regulation {
        Regulation::None => "Leave as is".into(),
        Regulation::Valve { set } => format!("On the valve, set {}", set.show_round(units)),
        Regulation::Inline { set } => format!("Behind the valve, preset {}", set.show_round(units)),
        Regulation::Body { set } => format!("In the bodies, {}", set.show_round(units)),
    }
}

/// Set points worth trying, with the parts each takes.
fn candidates(
    plan: &Plan,
    valve: &Valve,
    bare: &ZoneAssessment,
    catalogue: &Catalogue,
) -> Vec<(Regulation, usize)> {
    let kinds: Vec<_> = bare
        .heads
        .iter()
        .filter_map(|h| catalogue.nozzle(&plan.group(&h.head.group)?.nozzle))
        .map(|n| catalogue.kind(n.kind))
        .collect();
    if is_drip(bare, plan, catalogue) {
        let nominal = bare.lowest().band.0;
        let high = bare.highest().band.2.min(plan.rules.drip_rating);
        return [20.0, 25.0, 30.0, 40.0]
            .map(Pressure::from_psi)
            .into_iter()
            .filter(|set| *set <= high && (nominal.psi() - 6.0..=nominal.psi() + 11.0).contains(&set.psi()))
            .map(|set| (Regulation::Inline { set }, 1))
            .collect();
    }
    let mut all = Vec::new();
    let nominal = bare.worst_nominal();
    // The set point that brings the mean of the heads to nominal; twice, since the friction goes
    // with the flow that the first one gives.
    let mut set = nominal + Pressure::from_psi(10.0);
    for _ in 0..3 {
        let Some(zone) = with(plan, valve, Regulation::Valve { set }, catalogue) else {
            break;
        };
        let Some(regulator) = zone.regulator.as_ref().filter(|r| r.state == LinkState::Active) else {
            break;
        };
        let mean = zone.heads.iter().map(|h| h.inlet).sum::<Pressure>() / zone.heads.len() as f64;
        set = Pressure::from_psi((regulator.set + nominal - mean).psi().round().clamp(15.0, 100.0));
    }
    set = Pressure::from_psi(set.psi().round());
    all.push((Regulation::Valve { set }, 1));
    let bodies = kinds
        .iter()
        .map(|k| k.body)
        .reduce(|a, b| if a == b { a } else { None })
        .flatten();
    if let Some(set) = bodies {
        all.push((Regulation::Body { set }, bare.heads.len()));
    }
    all
}

impl ZoneAssessment {
    fn worst_nominal(&self) -> Pressure {
        self.lowest().band.0
    }
}

fn option(
    plan: &Plan,
    label: String,
    edit: Option<Edit>,
    zone: ZoneAssessment,
    pieces: usize,
    fresh: bool,
) -> RegulationOption {
    let units = plan.units;
    let (mut notes, mut works) = (Vec::new(), true);
    let (low, high) = (zone.lowest(), zone.highest());
    if let Some(r) = &zone.regulator {
        let wanted = plan.rules.regulator_room;
        if r.room < wanted {
            works = false;
            notes.push(format!(
                "No working room: {} arrive where {} + {} are needed",
                r.inlet.show(units),
                r.set.show_round(units),
                wanted.show_round(units)
            ));
        } else if fresh {
            notes.push(format!("{} of room at the inlet", r.room.show(units)));
        }
        if let Some((least, most)) = r.flow_band
            && !(least..=most).contains(&zone.flow)
        {
            works = false;
            notes.push(format!(
                "{} is outside its {} to {}",
                zone.flow.show(units),
                least.show(units),
                most.show(units)
            ));
        }
    }
    if low.nozzle < low.band.1 {
        works = false;
        notes.push(format!(
            "The last head gets {}, it needs {}",
            low.nozzle.show(units),
            low.band.1.show_round(units)
        ));
    }
    let over = high.nozzle / high.band.0 - 1.0;
    if over > OVER_NOMINAL {
        works = false;
        notes.push(format!(
            "{:.0} % over the nozzle's best: fog, {:+.0} % water",
            over * 100.0,
            (zone.flow / zone.nominal_flow - 1.0) * 100.0
        ));
    }
    if notes.is_empty() {
        notes.push("All heads in their band".into());
    }
    RegulationOption {
        label,
        edit,
        zone,
        pieces,
        notes,
        works,
    }
}

/// A reducing valve for the whole point of connection, and what it does to the other zones.
fn system_option(plan: &Plan, valve: &Valve, catalogue: &Catalogue) -> Option<RegulationOption> {
    let supply = plan.supply(&valve.supply)?;
    let curve = supply_curve(supply, plan.units).ok()?;
    if supply
        .chain
        .iter()
        .any(|c| matches!(c.part, ChainPart::Regulator { .. }))
    {
        return None;
    }
    let others: Vec<&Valve> = plan.valves.iter().filter(|v| v.supply == supply.id).collect();
    let need = others
        .iter()
        .filter_map(|v| with(plan, v, Regulation::None, catalogue))
        .map(|z| z.lowest().band.0 + z.at_connection - z.lowest().inlet)
        .fold(Pressure::ZERO, Pressure::max);
    let set = Pressure::from_psi((((need.psi() + SYSTEM_MARGIN_PSI) / 5.0).ceil() * 5.0).clamp(25.0, 125.0));
    // One that is set above what arrives does nothing at all.
    if curve.static_pressure < set + plan.rules.regulator_room {
        return None;
    }
    let mut changed = supply.clone();
    changed.chain.push(ChainItem {
        id: plan.fresh_id('c'),
        part: ChainPart::Regulator { set },
    });
    let edit = Edit::PutSupply {
        supply: changed,
        at: None,
    };
    let (after, _) = apply(plan, &edit, catalogue).ok()?;
    let zone = assess_zone(&after, valve, catalogue).ok()?;
    let mut result = option(
        plan,
        format!("At the connection, set {}", set.show_round(plan.units)),
        Some(edit),
        zone,
        1,
        true,
    );
    for other in others.into_iter().filter(|v| v.id != valve.id) {
        let (Ok(was), Ok(now)) = (
            assess_zone(plan, other, catalogue),
            assess_zone(&after, other, catalogue),
        ) else {
            continue;
        };
        let number = plan.valve_number(&other.id);
        let room = |z: &ZoneAssessment| {
            z.regulator
                .as_ref()
                .is_none_or(|r| r.room >= plan.rules.regulator_room)
        };
        if room(&was) && !room(&now) {
            result.works = false;
            result
                .notes
                .push(format!("Robs the regulator of valve {number} of its room"));
        } else if was.lowest().nozzle >= was.lowest().band.1 && now.lowest().nozzle < now.lowest().band.1 {
            result.works = false;
            result.notes.push(format!(
                "Starves valve {number}: {}",
                now.lowest().nozzle.show(plan.units)
            ));
        }
    }
    Some(result)
}

#[derive(Clone, Copy, PartialEq, Eq)]
enum Wanted {
    Valve,
    Body,
}

fn wanted_place(plan: &Plan, bare: &ZoneAssessment) -> Wanted {
    let level = bare.height_range.ft().abs() <= LEVEL_FT;
    // What one regulator can't even out is what the lateral itself costs from best to worst.
    let uneven = bare.spread * (bare.worst_nominal() / bare.lowest().nozzle.max(Pressure::from_psi(1.0)));
    let _ = plan;
    if level && uneven <= EVEN_ENOUGH && bare.heads.len() < MANY_HEADS {
        Wanted::Valve
    } else {
        Wanted::Body
    }
}

/// The order of deciding: starved, fine, drip, too high.
fn recommend(
    plan: &Plan,
    valve: &Valve,
    bare: &ZoneAssessment,
    options: &[RegulationOption],
    catalogue: &Catalogue,
) -> (usize, String) {
    let units = plan.units;
    let (low, high) = (bare.lowest(), bare.highest());
    let find = |wanted: &dyn Fn(&Regulation) -> bool| {
        options.iter().position(|o| {
            let regulation = match &o.edit {
                Some(Edit::FitRegulation { regulation, .. }) => *regulation,
                None => valve.regulation,
                _ => return false,
            };
            o.works && wanted(&regulation)
        })
    };
    let none = find(&|r| *r == Regulation::None)
        .or_else(|| {
            options.iter().position(|o| {
                matches!(
                    o.edit,
                    Some(Edit::FitRegulation {
                        regulation: Regulation::None,
                        ..
                    })
                )
            })
        })
        .unwrap_or(0);
    if is_drip(bare, plan, catalogue) {
        return match find(&|r| matches!(r, Regulation::Inline { .. })) {
            Some(i) => (
                i,
                "drip is filtered and regulated by the house's rule; the lowest preset that \
                serves the last emitter"
                    .into(),
            ),
            None => (
                none,
                "no preset regulator has its room here: see the findings".into(),
            ),
        };
    }
    if low.nozzle < low.band.1 {
        return (
            none,
            format!(
                "{} at the last head is too little: not a question for a regulator, which can only take \
                    away. Fewer heads, larger pipe or lower-pressure heads",
                low.nozzle.show(units)
            ),
        );
    }
    if high.nozzle <= high.band.0 * (1.0 + OVER_NOMINAL) {
        return (
            none,
            format!(
                "{} at the highest head is within 15 % of its best {}: none needed",
                high.nozzle.show(units),
                high.band.0.show_round(units)
            ),
        );
    }
    if bare.at_connection.psi() > SYSTEM_REGULATOR_FROM_PSI
        && let Some(i) = options
            .iter()
            .position(|o| matches!(o.edit, Some(Edit::PutSupply { .. })))
        && options[i]
            .notes
            .iter()
            .all(|n| !n.starts_with("Robs") && !n.starts_with("Starves"))
    {
        return (
            i,
            format!(
                "{} at the connection strains main and valves: a system regulator first, then look again",
                bare.at_connection.show(units)
            ),
        );
    }
    let body = find(&|r| matches!(r, Regulation::Body { .. }));
    let on_valve = find(&|r| matches!(r, Regulation::Valve { .. }));
    let (wanted, reason) = match wanted_place(plan, bare) {
        Wanted::Valve => (
            on_valve.or(body),
            "one kind of head, level and even: one module serves all",
        ),
        Wanted::Body => (
            body.or(on_valve),
            "many heads, height or a long lateral: bodies give every head the same",
        ),
    };
    match wanted.or_else(|| options.iter().position(|o| o.works)) {
        Some(i) => (i, reason.into()),
        None => (
            none,
            "no regulator has its working room here: see the notes on each".into(),
        ),
    }
}
