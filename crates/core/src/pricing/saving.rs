//! What one way to water saves against another: water, its money, and how soon a dearer one is paid back.

use super::first::FirstCost;
use crate::catalogue::Kind;
use crate::job::Job;
use crate::units::Volume;
use rust_decimal::Decimal;
use rust_decimal::prelude::ToPrimitive;

/// A way to water, as far as it can be held against others.
#[derive(Debug, Clone, PartialEq)]
pub struct Offered {
    /// Its kind of head.
    pub kind: Kind,
    /// Water of a year; none: not known.
    pub water: Option<Volume>,
    /// What it costs; none: it was not priced.
    pub cost: Option<FirstCost>,
}

/// Why others are held against a way.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Against {
    /// It is what the plan has there now.
    Planned,
    /// It costs the least to put in.
    Cheapest,
    /// It takes the most water; what ways cost to put in is not known of all.
    Thirstiest,
}

/// What a way saves against another.
#[derive(Debug, Clone, PartialEq)]
pub struct Saving {
    /// The kind that it is held against.
    pub against: Kind,
    /// Why that.
    pub because: Against,
    /// So much less water a year; negative: more.
    pub water: Volume,
    /// What that other one takes a year.
    pub of: Volume,
    /// So much less money a year for it; none without a tariff.
    pub money: Option<Decimal>,
    /// So much more to put in; negative: less; none where either has a part without a price.
    pub more: Option<Decimal>,
}

/// When what a way costs more is paid by what it saves.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum PaidBack {
    /// It costs no more, and saves.
    AtOnce,
    /// After so many years.
    After(f64),
    /// It costs more, and its water costs as much or more.
    Never,
    /// It costs less, and its water costs more: after so many years that has eaten up what was saved.
    EatenUp(f64),
    /// A price or the tariff is missing, or both are alike.
    Unknown,
}

/// Share of the water under which two estimates are the same.
const ALIKE: f64 = 0.01;

impl Saving {
    /// Both take the same water, as far as that can be told.
    pub fn is_alike(&self) -> bool {
        self.water.litres().abs() <= ALIKE * self.of.litres()
    }

    /// When the higher first cost is paid back, years of the same water and tariff, without interest.
    ///
    /// # Example
    /// 140.00 more to put in and 92.00 less a year for water: after 1.5 years.
    pub fn paid_back(&self) -> PaidBack {
        let known = self.money.zip(self.more).filter(|_| !self.is_alike());
        let Some((money, more)) = known else {
            return PaidBack::Unknown;
        };
        let years = || (more / money).to_f64().unwrap_or(f64::INFINITY).abs();
        let (saves, costs_more) = (money > Decimal::ZERO, more > Decimal::ZERO);
        match (saves, costs_more) {
            (true, true) => PaidBack::After(years()),
            (true, false) => PaidBack::AtOnce,
            (false, true) => PaidBack::Never,
            (false, false) if money.is_zero() || more.is_zero() => PaidBack::Unknown,
            (false, false) => PaidBack::EatenUp(years()),
        }
    }
}

/// What every way saves, in their order: against what the plan has there now (`planned`), else against the one
/// that costs the least to put in, or, while prices are missing, takes the most water. None for that one
/// itself, for ways whose water is not known, and where there is nothing to hold them against.
pub fn savings(planned: Option<Kind>, ways: &[Offered]) -> Vec<Option<Saving>> {
    let none = || vec![None; ways.len()];
    let Some((at, because)) = held_against(planned, ways) else {
        return none();
    };
    let base = &ways[at];
    let saving = |(i, way): (usize, &Offered)| {
        let of = base.water?;
        let water = Volume::from_litres(of.litres() - way.water?.litres());
        let (then, now) = (base.cost.as_ref(), way.cost.as_ref());
        (i != at).then(|| Saving {
            against: base.kind,
            because,
            water,
            of,
            money: then.zip(now).and_then(|(then, now)| Some(then.water? - now.water?)),
            more: then.zip(now).and_then(|(then, now)| Some(whole(now)? - whole(then)?)),
        })
    };
    ways.iter().enumerate().map(saving).collect()
}

/// The first cost, where every part of it has a price.
fn whole(cost: &FirstCost) -> Option<Decimal> {
    cost.unpriced.is_empty().then(|| cost.first())
}

fn held_against(planned: Option<Kind>, ways: &[Offered]) -> Option<(usize, Against)> {
    let known = || ways.iter().enumerate().filter(|(_, w)| w.water.is_some());
    // Of rotors the comparison keeps the best size only: another size stands for it.
    let alike = |a: Kind, b: Kind| a == b || a.is_rotor() && b.is_rotor();
    if let Some((i, _)) = planned.and_then(|kind| known().find(|(_, w)| alike(w.kind, kind))) {
        return Some((i, Against::Planned));
    }
    let first = |way: &Offered| way.cost.as_ref().and_then(whole);
    if known().all(|(_, w)| first(w).is_some()) {
        let least = known().min_by_key(|(_, w)| first(w));
        return least.map(|(i, _)| (i, Against::Cheapest));
    }
    let litres = |way: &Offered| way.water.map_or(0.0, Volume::litres);
    let most = known().max_by(|a, b| litres(a.1).total_cmp(&litres(b.1)));
    most.map(|(i, _)| (i, Against::Thirstiest))
}

/// The kind that waters an area in the plan; none where nothing does, or several do.
pub fn planned_kind(job: &Job, area: &str) -> Option<Kind> {
    let groups = job.groups.iter().filter(|g| g.area.as_deref() == Some(area) && g.count() > 0);
    let nozzle = |id: &str| job.catalogue().nozzle(id);
    let mut kinds: Vec<Kind> = groups.filter_map(|g| Some(nozzle(&g.nozzle)?.kind)).collect();
    kinds.dedup();
    match kinds[..] {
        [kind] => Some(kind),
        _ => None,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn way(kind: Kind, litres: f64, first: Option<i64>, water: Option<i64>) -> Offered {
        Offered {
            kind,
            water: Some(Volume::from_litres(litres)),
            cost: first.map(|first| FirstCost {
                materials: Decimal::from(first),
                labour: Decimal::ZERO,
                unpriced: Vec::new(),
                water: water.map(Decimal::from),
            }),
        }
    }

    fn of(planned: Option<Kind>, ways: &[Offered], i: usize) -> Saving {
        savings(planned, ways)[i].clone().expect("a saving")
    }

    #[test]
    fn a_dearer_kind_is_paid_back_by_its_water() {
        // 540 instead of 400 to put in; 208 instead of 300 a year for water: 140 / 92 = 1.52 years.
        let ways = [
            way(Kind::Spray, 150_000.0, Some(400), Some(300)),
            way(Kind::Rotator, 104_000.0, Some(540), Some(208)),
        ];
        assert_eq!(savings(None, &ways)[0], None, "the others are held against it");
        let rotators = of(None, &ways, 1);
        assert_eq!((rotators.against, rotators.because), (Kind::Spray, Against::Cheapest));
        assert_eq!(rotators.water.litres(), 46_000.0);
        assert_eq!(rotators.money, Some(Decimal::from(92)));
        let PaidBack::After(years) = rotators.paid_back() else { panic!("{rotators:?}") };
        assert!((years - 1.5217).abs() < 1e-3, "{years}");
        // The other way round: 140 less to put in are eaten up in the same time.
        let sprays = of(Some(Kind::Rotator), &ways, 0);
        assert_eq!((sprays.because, sprays.water.litres()), (Against::Planned, -46_000.0));
        assert!(matches!(sprays.paid_back(), PaidBack::EatenUp(y) if (y - years).abs() < 1e-9));
    }

    #[test]
    fn what_is_cheaper_and_saves_is_paid_at_once_and_what_does_neither_never() {
        let ways = [
            way(Kind::Spray, 100.0, Some(400), Some(300)),
            way(Kind::Rotator, 90.0, Some(390), Some(280)),
            way(Kind::RotorMid, 120.0, Some(500), Some(310)),
        ];
        let spray = Some(Kind::Spray);
        assert_eq!(of(spray, &ways, 1).paid_back(), PaidBack::AtOnce);
        assert_eq!(of(spray, &ways, 2).paid_back(), PaidBack::Never);
        // Larger rotors are planned, the comparison has the mid-size: it stands for them.
        assert_eq!(of(Some(Kind::RotorLarge), &ways, 0).against, Kind::RotorMid);
    }

    #[test]
    fn without_prices_the_thirstiest_is_the_measure_and_nothing_is_said_of_money() {
        let mut ways = [
            way(Kind::Rotator, 90.0, Some(390), Some(280)),
            way(Kind::Spray, 100.0, Some(400), Some(300)),
            way(Kind::Dripline, 60.0, None, None),
        ];
        assert_eq!(of(None, &ways, 0).because, Against::Thirstiest);
        let drip = of(None, &ways, 2);
        assert_eq!((drip.water.litres(), drip.money, drip.more), (40.0, None, None));
        assert_eq!(drip.paid_back(), PaidBack::Unknown);
        // A part without a price: the sums can't be held against each other.
        ways[2] = way(Kind::Dripline, 60.0, Some(100), Some(200));
        ways[2].cost.as_mut().unwrap().unpriced.push("Filter".into());
        let drip = of(None, &ways, 2);
        assert_eq!((drip.money, drip.more), (Some(Decimal::from(100)), None));
        // Water that nobody knows is not compared.
        ways[2].water = None;
        assert_eq!(savings(None, &ways)[2], None);
        assert!(savings(None, &[]).is_empty());
    }
}
