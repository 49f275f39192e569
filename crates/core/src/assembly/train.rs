use crate::catalogue::{Catalogue, Device, Mounting, Part, PartEnd, PartRole, RegulatorModel, Seal};
use crate::network::Loss;
use crate::plan::{Assembly, AssemblyPart, AssemblyPlace, PartIs, Regulation, Valve};
use crate::units::{Flow, Length, Pressure};

/// A part of an assembly with all that is known of it.
#[derive(Debug, Clone, PartialEq)]
pub struct Member {
    /// Place in the plan's list; none: it is there without being listed.
    pub place: Option<usize>,
    /// What it is.
    pub is: PartIs,
    /// Its id in the catalog.
    pub part: String,
    /// For people.
    pub label: String,
    /// What it does.
    pub role: PartRole,
    /// Where water comes in, as it stands: a part that is turned round has its ends changed.
    pub inlet: Option<PartEnd>,
    /// Where it goes out.
    pub outlet: Option<PartEnd>,
    /// What it costs.
    pub loss: Option<Loss>,
    /// What it holds, if it regulates.
    pub set: Option<Pressure>,
    /// What it bears.
    pub rating: Pressure,
    /// Least and greatest flow.
    pub band: (Option<Flow>, Option<Flow>),
    /// How long it is.
    pub length: Length,
    /// Room beside it to open it.
    pub clear: Length,
    /// It works one way round only, and stands the other.
    pub reversed: bool,
    /// How its inlet is sealed, if somebody said.
    pub sealed: Option<Seal>,
}

/// An assembly, part by part in the direction of flow.
#[derive(Debug, Clone, PartialEq)]
pub struct Train {
    /// Its parts.
    pub members: Vec<Member>,
    /// Where it stands.
    pub stands: AssemblyPlace,
}

impl Train {
    /// The assembly of a valve: as listed; what of valve, filter and regulator is fitted and not listed
    /// stands at its usual place: the valve first, the filter behind it, the regulator at the end of what
    /// is not tube.
    pub fn of(catalogue: &Catalogue, valve: &Valve) -> Self {
        Self::with(catalogue, valve, valve.regulation)
    }

    /// The same, regulated otherwise.
    pub fn with(catalogue: &Catalogue, valve: &Valve, regulation: Regulation) -> Self {
        let stands = valve.assembly.stands;
        let own = Own { catalogue, valve, regulation };
        let listed = valve.assembly.parts.iter().enumerate();
        let mut members: Vec<Member> = listed.filter_map(|(i, p)| own.member(p, Some(i))).collect();
        let has = |members: &[Member], is: &PartIs| members.iter().any(|m| m.is == *is);
        for (is, at) in [(PartIs::Valve, 0), (PartIs::Filter, 1), (PartIs::Regulator, usize::MAX)] {
            if has(&members, &is) {
                continue;
            }
            let Some(member) = own.member(&AssemblyPart::new(is), None) else {
                continue;
            };
            // Before tube begins.
            let tube =
                |m: &Member| matches!(m.outlet, Some(PartEnd::Tube(_)) | None) && m.role != PartRole::Run;
            let most = members.iter().position(tube).unwrap_or(members.len());
            members.insert(at.min(most), member);
        }
        Self { members, stands }
    }

    /// Somebody put it together.
    pub fn is_listed(assembly: &Assembly) -> bool {
        !assembly.parts.is_empty()
    }
}

struct Own<'a> {
    catalogue: &'a Catalogue,
    valve: &'a Valve,
    regulation: Regulation,
}

impl Own<'_> {
    fn member(&self, listed: &AssemblyPart, place: Option<usize>) -> Option<Member> {
        let mut member = match &listed.is {
            PartIs::Valve => self.device(&self.valve.model)?,
            PartIs::Filter => self.device(self.valve.filter.as_deref()?)?,
            PartIs::Regulator => self.regulator()?,
            PartIs::Part(id) => self.part(self.catalogue.part(id)?),
        };
        member.is = listed.is.clone();
        member.place = place;
        member.sealed = listed.sealed;
        if member.role == PartRole::Regulator {
            member.set = listed.set.filter(|_| matches!(listed.is, PartIs::Part(_))).or(member.set);
        }
        // Two-way parts may stand either way round.
        if listed.reversed {
            std::mem::swap(&mut member.inlet, &mut member.outlet);
        }
        member.reversed = listed.reversed && member.reversed;
        Some(member)
    }

    fn part(&self, part: &Part) -> Member {
        Member {
            place: None,
            is: PartIs::Part(part.id.clone()),
            part: part.id.clone(),
            label: part.label.clone(),
            role: part.role,
            inlet: part.inlet.clone(),
            outlet: part.outlet.clone(),
            // What is a device too has the device's loss.
            loss: (part.loss.clone()).or_else(|| self.catalogue.device(&part.id).map(|d| d.loss.clone())),
            set: part.preset,
            rating: part.rating,
            band: part.band,
            length: part.length,
            clear: part.clear,
            reversed: part.arrow,
            sealed: None,
        }
    }

    /// A valve or filter of the zone: its loss is the device's, its ends the part's.
    fn device(&self, id: &str) -> Option<Member> {
        let device: &Device = self.catalogue.device(id)?;
        let part = self.catalogue.part(id)?;
        Some(Member { loss: Some(device.loss.clone()), ..self.part(part) })
    }

    /// The regulator of the zone in the line; at a tap it comes with hose thread. A module sits on the valve
    /// and is no part in the line.
    fn regulator(&self) -> Option<Member> {
        let Regulation::Inline { set } = self.regulation else {
            return None;
        };
        let hose = self.valve.assembly.stands == AssemblyPlace::Tap;
        let inch = self.valve.filter.as_deref() == Some("filter-1in");
        let part = match (hose, inch) {
            (true, _) => "preset-hose",
            (false, true) => "preset-1in",
            (false, false) => "preset-low",
        };
        let part = self.catalogue.part(part)?;
        let mut models = self.catalogue.regulators_at(Mounting::Inline);
        let model: &RegulatorModel = models.next()?;
        Some(Member { set: Some(set), loss: Some(model.loss.clone()), ..self.part(part) })
    }
}
