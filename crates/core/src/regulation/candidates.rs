use crate::job::Job;
use crate::network::LinkState;
use crate::plan::Regulation;
use crate::units::Pressure;
use crate::zone::{ZoneAssessment, ZoneInputs, assess_zone};

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
        let high = bare.highest().band.most.min(job.rules.drip_rating);
        return [20.0, 25.0, 30.0, 40.0]
            .map(Pressure::from_psi)
            .into_iter()
            .filter(|set| *set <= high && (nominal.psi() - 6.0..=nominal.psi() + 11.0).contains(&set.psi()))
            .map(|set| (Regulation::Inline { set }, 1))
            .collect();
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
    let bodies = inputs
        .waterings
        .iter()
        .map(|w| w.class.body)
        .reduce(|a, b| if a == b { a } else { None })
        .flatten();
    if let Some(set) = bodies {
        all.push((Regulation::Body { set }, bare.heads.len()));
    }
    all
}
