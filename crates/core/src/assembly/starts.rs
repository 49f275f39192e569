use crate::plan::{Assembly, AssemblyPart, AssemblyPlace, PartIs, Regulation, Valve};
use crate::units::{Flow, Length, Pressure};

/// Flow up to which parts are 3/4 in, gpm.
const SMALL_GPM: f64 = 8.0;

/// A usual assembly to begin with.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Start {
    /// Buried valve, filter and regulator in a box.
    Box,
    /// Anti-siphon valve above ground.
    AntiSiphon,
    /// Filter and regulator at a bed far from the valve.
    FarBed,
    /// At a hose bib.
    HoseBib,
    /// A tank with a pump.
    Tank,
    /// A lawn watered below ground.
    SubSurface,
    /// On the riser of an old sprinkler.
    Riser,
    /// Two regulators one after the other.
    Cascade,
    /// Several beds on one pipe, each regulated where it comes up.
    StubUps,
    /// Rows of tape in a raised bed, on a manifold that lifts off.
    RaisedBed,
}

impl Start {
    /// All, in the order they are offered.
    pub const ALL: [Self; 10] = [
        Self::Box,
        Self::AntiSiphon,
        Self::FarBed,
        Self::HoseBib,
        Self::Tank,
        Self::SubSurface,
        Self::Riser,
        Self::Cascade,
        Self::StubUps,
        Self::RaisedBed,
    ];

    /// Its word in forms and files.
    pub fn word(self) -> &'static str {
        match self {
            Self::Box => "box",
            Self::AntiSiphon => "anti-siphon",
            Self::FarBed => "far-bed",
            Self::HoseBib => "hose-bib",
            Self::Tank => "tank",
            Self::SubSurface => "sub-surface",
            Self::Riser => "riser",
            Self::Cascade => "cascade",
            Self::StubUps => "stub-ups",
            Self::RaisedBed => "raised-bed",
        }
    }

    /// A valve put together so. `top` is how high the highest emitter stands over it: vacuum breakers come
    /// above that. A set point that is fitted in the line stays, else 25 psi; over 8 gpm parts are 1 in where
    /// they are made so.
    pub fn fit(self, valve: &Valve, flow: Flow, top: Length) -> Valve {
        let big = flow.gpm() > SMALL_GPM
            && !matches!(self, Self::HoseBib | Self::AntiSiphon | Self::Riser | Self::RaisedBed);
        let part = |id: &str| AssemblyPart::new(PartIs::Part(id.to_owned()));
        let sized = |id: &str| part(&if big { format!("{id}-1in") } else { id.to_owned() });
        let own = AssemblyPart::new;
        let (v, f, r) = (own(PartIs::Valve), own(PartIs::Filter), own(PartIs::Regulator));
        let over = |least: Length| Some((top + Length::from_in(6.0)).max(least));
        let set = match valve.regulation {
            Regulation::Inline { set } | Regulation::Valve { set } => set,
            _ => Pressure::from_psi(25.0),
        };
        let mut next = Valve {
            regulation: Regulation::Inline { set },
            filter: Some(if big { "filter-1in" } else { "filter-3/4in" }.to_owned()),
            model: if big { "valve-1in" } else { "valve-drip-3/4in" }.to_owned(),
            ..valve.clone()
        };
        let mut assembly = Assembly::default();
        assembly.parts = match self {
            Self::Box => vec![v, f, r, sized("tube-swivel")],
            Self::AntiSiphon => {
                next.model = "anti-siphon-valve-3/4in".to_owned();
                assembly.stands = AssemblyPlace::Riser;
                assembly.height = over(Length::from_in(6.0));
                vec![v, f, r, part("tube-swivel")]
            }
            Self::FarBed => vec![v, sized("run"), sized("swing-joint"), f, r, sized("tube-swivel")],
            Self::HoseBib => {
                next = at_tap(next, true);
                assembly = std::mem::take(&mut next.assembly);
                assembly.height = over(Length::from_in(18.0));
                std::mem::take(&mut assembly.parts)
            }
            Self::Tank => {
                assembly.stands = AssemblyPlace::Tank;
                let mut all = ["tank-outlet", "ball-valve-3/4", "pump"].map(part).to_vec();
                all.extend(big.then(|| part("coupling")));
                all.extend(big.then(|| part("bush-3/4x1")));
                all.extend(big.then(|| part("nipple-1in")));
                all.extend([v, f, r, sized("tube-swivel")]);
                all
            }
            Self::SubSurface => {
                let ends = ["air-relief", "flush-valve", "indicator"].map(part);
                let begin = [v, f, r, sized("tube-swivel"), sized("supply-header")];
                begin.into_iter().chain(ends).collect()
            }
            Self::Riser => {
                assembly.stands = AssemblyPlace::Riser;
                vec![v, part("riser"), part("riser-bush"), f, r, part("tube-swivel")]
            }
            Self::Cascade => {
                let mut first = if big { part("preset-1in") } else { part("preset-low") };
                first.set = Some(Pressure::from_psi(50.0).max(set + Pressure::from_psi(15.0)));
                vec![v, f, first, sized("nipple"), r, sized("tube-swivel")]
            }
            Self::RaisedBed => {
                let bed = ["tube-swivel", "bed-riser", "row-manifold", "line-cap"].map(part);
                [v, f, r].into_iter().chain(bed).collect()
            }
            Self::StubUps => {
                vec![v, f, sized("coupling"), sized("run"), sized("nipple"), r, sized("tube-swivel")]
            }
        };
        next.assembly = assembly;
        next
    }
}

/// A valve at a hose bib: the timer behind a splitter and an arrester, a vacuum breaker behind it, and for drip filter and
/// regulator; sprinklers on stakes take no filter.
pub fn at_tap(valve: Valve, drip: bool) -> Valve {
    let part = |id: &str| AssemblyPart::new(PartIs::Part(id.to_owned()));
    let own = AssemblyPart::new;
    let mut parts = ["tap", "splitter", "arrester"].map(part).to_vec();
    parts.extend([own(PartIs::Valve), part("hose-vacuum-breaker")]);
    if drip {
        parts.extend([own(PartIs::Filter), own(PartIs::Regulator), part("hose-swivel")]);
    } else {
        parts.extend([own(PartIs::Regulator), part("hose-barb-3/4")]);
    }
    Valve {
        model: "hose-timer-1".to_owned(),
        filter: drip.then(|| "filter-hose".to_owned()),
        assembly: Assembly {
            parts,
            stands: AssemblyPlace::Tap,
            height: Some(Length::from_in(18.0)),
            supported: true,
            ..Assembly::default()
        },
        ..valve
    }
}
