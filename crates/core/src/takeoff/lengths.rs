//! Pipe and tube as they are cut and bought: sticks and coils, with the cut list.

use super::cutting::{cut_coils, cut_sticks};
use super::joints::STICK_FT;
use super::line::{How, LineKind, Named, Tally, Unit, size_for_people};
use crate::catalogue::{Catalogue, FittingForm, FittingSystem, Nozzle, PipeId, Sold};
use crate::units::{Length, UnitSystem};
use rust_decimal::Decimal;
use std::collections::BTreeMap;

/// Coils, ft and m.
const COILS_FT: [f64; 4] = [100.0, 250.0, 500.0, 1000.0];
const COILS_M: [f64; 3] = [25.0, 50.0, 100.0];
/// Shorter than this is no piece, m.
const NOTHING: f64 = 0.01;

/// What a piece is cut for.
#[derive(Debug, Clone, PartialEq)]
pub struct Piece {
    /// Its length.
    pub length: Length,
    /// Leg, group or crossing on the plan.
    pub of: String,
    /// From its beginning to the first emitter, of rows.
    pub first: Option<Length>,
}

/// What is cut from one stick or coil.
#[derive(Debug, Clone, PartialEq)]
pub struct Bar {
    /// How long it is.
    pub length: Length,
    /// Pieces, by their place in the list.
    pub pieces: Vec<usize>,
}

/// How a pipe is cut.
#[derive(Debug, Clone, PartialEq)]
pub struct CutList {
    /// The pipe.
    pub pipe: PipeId,
    /// What it is called: the pipe, or what is made of it with emitters in it.
    pub label: String,
    /// Its size, or how far its emitters are apart.
    pub size: String,
    /// Everything that is cut.
    pub pieces: Vec<Piece>,
    /// Sticks or coils, each with what is cut from it.
    pub bars: Vec<Bar>,
    /// Of a stick: no packing takes fewer.
    pub bound: usize,
}

impl CutList {
    /// Pieces of like length together, the longest first: length, how many, first emitter.
    pub fn grouped(&self) -> Vec<(Length, usize, Option<Length>)> {
        let sixteenth = |l: Length| (l.inches() * 16.0).round() as i64;
        let mut groups: BTreeMap<(i64, i64), (Length, usize, Option<Length>)> = BTreeMap::new();
        for piece in &self.pieces {
            let key = (-sixteenth(piece.length), piece.first.map_or(-1, sixteenth));
            groups.entry(key).or_insert((piece.length, 0, piece.first)).1 += 1;
        }
        groups.into_values().collect()
    }
    /// What is left over of all sticks and coils.
    pub fn left(&self) -> Length {
        let bought: f64 = self.bars.iter().map(|b| b.length.m()).sum();
        let cut: f64 = self.pieces.iter().map(|p| p.length.m()).sum();
        Length::from_m(bought - cut)
    }
}

/// Price of one coil or stick of a part at a length, where it is known.
pub type PieceCost<'a> = &'a dyn Fn(&str, Length) -> Option<Decimal>;

/// Tube with emitters in it: it is sold by what they give and how far they are apart.
#[derive(Debug, Clone, Copy)]
pub(super) struct Emitting<'a> {
    pub nozzle: &'a Nozzle,
    pub every: Length,
}

impl Emitting<'_> {
    /// As it is bought: `dripline-0.6-12in`, or with `-30cm` in metric jobs.
    fn named(&self, system: UnitSystem) -> Named {
        let (every, unit) = match system {
            // To a tenth, and no tenths of what is whole.
            UnitSystem::Us => ((self.every.inches() * 10.0).round() / 10.0, "in"),
            UnitSystem::Metric | UnitSystem::MetricBar => ((self.every.m() * 100.0).round(), "cm"),
        };
        Named::new(LineKind::Tubing, format!("{}-{every}{unit}", self.nozzle.id), self.nozzle.label.clone())
            .sized(format!("every {every} {unit}"))
    }
}

/// A pipe, and what it is called where emitters are in it.
type Made = ((String, String), Option<String>);

/// Gathers pieces by pipe, those with emitters by product.
#[derive(Debug, Default)]
pub(super) struct Lengths {
    by_pipe: BTreeMap<Made, (Option<Named>, Vec<Piece>)>,
}

impl Lengths {
    pub fn piece(&mut self, pipe: &PipeId, length: Length, of: &str) {
        self.put(pipe, None, length, of, None);
    }

    /// A piece with emitters in it, the first of them so far from its beginning where it is a row.
    pub fn emitting(
        &mut self,
        pipe: &PipeId,
        made: Emitting<'_>,
        system: UnitSystem,
        (length, of, first): (Length, &str, Option<Length>),
    ) {
        self.put(pipe, Some(made.named(system)), length, of, first);
    }

    fn put(&mut self, pipe: &PipeId, named: Option<Named>, length: Length, of: &str, first: Option<Length>) {
        if length.m() < NOTHING {
            return;
        }
        let key = (pipe.material.clone(), pipe.size.clone());
        let key = (key, named.as_ref().map(|n| n.part.clone()));
        let (of, piece) = (of.to_owned(), self.by_pipe.entry(key).or_insert((named, Vec::new())));
        piece.1.push(Piece { length, of, first });
    }

    /// Lines of all pipe, and how it is cut.
    pub fn buy(
        self,
        catalogue: &Catalogue,
        system: UnitSystem,
        waste: f64,
        costs: Option<PieceCost<'_>>,
        tally: &mut Tally,
    ) -> Vec<CutList> {
        let mut lists = Vec::new();
        let mut all: Vec<_> = self.by_pipe.into_iter().collect();
        let place = |(key, _): &Made| {
            let is = |p: &crate::catalogue::Pipe| p.material == key.0 && p.size == key.1;
            catalogue.pipes.iter().position(is)
        };
        all.sort_by_key(|(key, _)| place(key));
        for (((material, size), _), (named, pieces)) in all {
            let id = PipeId { material, size };
            let Some(pipe) = catalogue.pipe(&id) else { continue };
            let drip = FittingSystem::of_material(&id.material) == Some(FittingSystem::Drip);
            let kind = if drip { LineKind::Tubing } else { LineKind::Pipe };
            let part = format!("{}-{}", id.material, id.size);
            let plain = || Named::new(kind, part, pipe.label.clone()).sized(size_for_people(&id.size));
            let named = named.unwrap_or_else(plain);
            let bought = Bought { named, pieces, waste, id };
            lists.push(match (pipe.sold, system) {
                (Sold::Stick, _) => bought.sticks(tally),
                (Sold::Coil, UnitSystem::Us) => {
                    bought.coils(catalogue, &COILS_FT.map(Length::from_ft), costs, tally)
                }
                (Sold::Coil | Sold::MetricCoil, _) => {
                    bought.coils(catalogue, &COILS_M.map(Length::from_m), costs, tally)
                }
            });
        }
        lists
    }
}

struct Bought {
    named: Named,
    id: PipeId,
    pieces: Vec<Piece>,
    waste: f64,
}

impl Bought {
    fn laid(&self) -> f64 {
        self.pieces.iter().map(|p| p.length.m()).sum()
    }

    fn from(&self) -> Vec<String> {
        let mut ids: Vec<String> = Vec::new();
        for piece in &self.pieces {
            if !ids.contains(&piece.of) {
                ids.push(piece.of.clone());
            }
        }
        ids
    }

    /// Whole sticks for what is longer than one, the rest packed.
    fn sticks(self, tally: &mut Tally) -> CutList {
        let stick = Length::from_ft(STICK_FT);
        let laid = self.laid();
        let mut cut: Vec<Piece> = Vec::new();
        for piece in &self.pieces {
            let mut left = piece.length;
            while left.m() > stick.m() + 1e-4 {
                cut.push(Piece { length: stick, ..piece.clone() });
                left = left - stick;
            }
            if left.m() > NOTHING {
                cut.push(Piece { length: left, ..piece.clone() });
            }
        }
        let lengths: Vec<Length> = cut.iter().map(|p| p.length).collect();
        let cuts = cut_sticks(&lengths, stick);
        let by_waste = (laid * (1.0 + self.waste) / stick.m() - 1e-6).ceil() as usize;
        let count = cuts.sticks.len().max(by_waste);
        let from = self.from();
        let (label, size) = (self.named.label.clone(), self.named.size.clone());
        let line = tally.line(self.named, Unit::Stick, Some(stick));
        line.quantity = count as f64;
        line.used = laid;
        line.from = from;
        line.how = vec![How::Sticks {
            laid: Length::from_m(laid),
            pieces: cut.len(),
            stick,
            packed: cuts.sticks.len(),
            bound: cuts.bound,
            waste: self.waste,
        }];
        CutList {
            pipe: self.id,
            label,
            size,
            pieces: cut,
            bars: cuts.sticks.into_iter().map(|pieces| Bar { length: stick, pieces }).collect(),
            bound: cuts.bound,
        }
    }

    fn coils(
        self,
        catalogue: &Catalogue,
        made: &[Length],
        costs: Option<PieceCost<'_>>,
        tally: &mut Tally,
    ) -> CutList {
        let laid = self.laid();
        let lengths: Vec<Length> = self.pieces.iter().map(|p| p.length).collect();
        // A size that nobody sells is not bought; with no price at all the least length counts.
        let known: Vec<(Length, f64)> = costs.map_or_else(Vec::new, |costs| {
            let of = |m: &Length| Some((*m, f64::try_from(costs(&self.named.part, *m)?).ok()?));
            made.iter().filter_map(of).filter(|p| p.1 > 0.0).collect()
        });
        let (sizes, prices): (Vec<Length>, Option<Vec<f64>>) = if known.is_empty() {
            (made.to_vec(), None)
        } else {
            (known.iter().map(|k| k.0).collect(), Some(known.iter().map(|k| k.1).collect()))
        };
        let least = Length::from_m(laid * (1.0 + self.waste));
        let coils = cut_coils(&lengths, least, &sizes, prices.as_deref());
        let bought: f64 = sizes.iter().zip(&coils.counts).map(|(s, n)| s.m() * *n as f64).sum();
        let how = How::Coils {
            laid: Length::from_m(laid),
            pieces: coils.pieces.len(),
            bought: Length::from_m(bought),
            waste: self.waste,
            priced: prices.is_some(),
        };
        let from = self.from();
        // What is laid is shared out over the coils that it is cut from.
        let mut at = 0;
        for (size, count) in sizes.iter().zip(&coils.counts).filter(|c| *c.1 > 0) {
            let used: f64 = coils.cut[at..at + count].iter().flatten().map(|i| coils.pieces[*i].m()).sum();
            at += count;
            let line = tally.line(self.named.clone(), Unit::Coil, Some(*size));
            line.quantity = *count as f64;
            line.used = used;
            line.from.clone_from(&from);
            line.how = vec![how.clone()];
        }
        if coils.joins > 0
            && let Some(system) = FittingSystem::of_material(&self.id.material)
            && let Some(row) = catalogue.fitting(system, FittingForm::Coupling, &self.id.size, None)
        {
            let part = format!("{}-coupling-{}", system.word(), self.id.size);
            let named = Named::new(LineKind::Fitting, part, row.label.clone());
            let named = named.sized(size_for_people(&self.id.size));
            tally.each(named, coils.joins as f64, super::line::Reason::LongLeg, "");
        }
        let mut bars = Vec::new();
        let mut at = 0;
        for (size, count) in sizes.iter().zip(&coils.counts) {
            for pieces in &coils.cut[at..at + count] {
                bars.push(Bar { length: *size, pieces: pieces.clone() });
            }
            at += count;
        }
        let pieces = if coils.pieces.len() == self.pieces.len() {
            self.pieces
        } else {
            coils.pieces.iter().map(|l| Piece { length: *l, of: String::new(), first: None }).collect()
        };
        CutList {
            pipe: self.id,
            label: self.named.label,
            size: self.named.size,
            bound: bars.len(),
            pieces,
            bars,
        }
    }
}
