use crate::catalogue::{Mounting, RegulatorModel};
use crate::job::Job;
use crate::network::LinkState;
use crate::plan::Regulation;
use crate::units::Pressure;
use crate::zone::{ZoneAssessment, ZoneInputs, assess_zone};

/// What a preset that lies under the set point that is wanted counts against one that lies over it.
const UNDER: f64 = 1.4;

/// The zone of these inputs, regulated otherwise.
pub(super) fn regulated(job: &Job, inputs: &ZoneInputs, regulation: Regulation) -> Option<ZoneAssessment> {
    assess_zone(&inputs.clone().with_regulation(regulation, job.catalogue())).ok()
}

/// True if any head of it is drip.
pub(super) fn is_drip(inputs: &ZoneInputs) -> bool {
    inputs.waterings.iter().any(|w| w.class.kind.is_drip())
}

/// Set points worth trying, with the parts each takes.
pub(super) fn candidates(job: &Job, inputs: &ZoneInputs, bare: &ZoneAssessment) -> Vec<(Regulation, usize)> {
    let nominal = bare.lowest().band.best;
    if is_drip(inputs) {
        // What lies below the valve gets its height on top: less than the rating must be left there, with
        // the tenth that presets may be off.
        let below = Pressure::of_height(bare.standing.below);
        let rated = bare.highest().band.most.min(job.rules.drip_rating);
        let most = rated - below;
        let (low, high) = (nominal.psi() - 6.0 - below.psi(), nominal.psi() + 11.0);
        let fits = |set: &Pressure| *set <= most && set.psi() >= low - 0.5 && set.psi() <= high;
        let presets = presets(job, inputs).into_iter().filter(fits);
        return presets.map(|set| (Regulation::Inline { set }, 1)).collect();
    }
    let mut all = Vec::new();
    // The set point that brings the mean of the heads to nominal; repeated, since the friction goes
    // with the flow that the first one gives.
    let mut set = nominal + Pressure::from_psi(10.0);
    for _ in 0..3 {
        let Some(zone) = regulated(job, inputs, Regulation::Valve { set }) else {
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
    // Below the module's flow the preset in the line does the same, where one is made near it: rather over what is wanted
    // than under, since what is missing at the nozzle no regulator brings.
    let near = |p: &Pressure| if *p < set { UNDER * (set - *p).kpa() } else { (*p - set).kpa() };
    let preset = presets(job, inputs).into_iter().min_by(|a, b| near(a).total_cmp(&near(b)));
    all.extend(preset.map(|set| (Regulation::Inline { set }, 1)));
    // Bodies that are made for every kind on the valve.
    let kinds = inputs.waterings.iter().map(|w| w.class.bodies());
    let common = kinds.reduce(|a, b| a.into_iter().filter(|p| b.contains(p)).collect());
    let bodies = common.unwrap_or_default().into_iter();
    all.extend(bodies.map(|set| (Regulation::Body { set }, bare.heads.len())));
    all
}

/// Presets that are sold where people count as in the job, rising.
fn presets(job: &Job, inputs: &ZoneInputs) -> Vec<Pressure> {
    let flow = inputs.nominal_flow();
    let models: Vec<&RegulatorModel> = job.catalogue().regulators_at(Mounting::Inline).collect();
    let made_for = |m: &&RegulatorModel| flow.is_within(m.flow_band.0, m.flow_band.1);
    let mut suits: Vec<&RegulatorModel> = models.iter().copied().filter(made_for).collect();
    // At a trickle drip takes the one that is made for the least.
    if suits.is_empty() && is_drip(inputs) {
        let least = |m: &&RegulatorModel| m.flow_band.0.lpm();
        suits.extend(models.into_iter().min_by(|a, b| least(a).total_cmp(&least(b))));
    }
    let mut all: Vec<Pressure> = suits.iter().flat_map(|m| m.presets_in(job.units)).collect();
    all.sort_by(|a, b| a.kpa().total_cmp(&b.kpa()));
    all.dedup();
    all
}
