//! What pipes are joined with: one system of fittings for each family of pipe.

use super::read::rows;
use serde::{Deserialize, Serialize};

/// How pipes of one family are joined. Fittings of different systems are not mixed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum FittingSystem {
    /// Primer and cement: PVC.
    Glued,
    /// Barbs inside the pipe, a clamp over each: PE by its inside diameter.
    Insert,
    /// A nut that grips: PE by its outside diameter.
    Compression,
    /// Solder: copper.
    Soldered,
    /// Pipe threads: steel.
    Threaded,
    /// Barbs or locking nuts for drip tube; makes and diameters are not to be mixed.
    Drip,
}

impl FittingSystem {
    /// How a pipe of this material is joined; none: not known.
    pub fn of_material(material: &str) -> Option<Self> {
        Some(match material {
            "pvc-40" | "class-200" => Self::Glued,
            "pe-sidr-15" => Self::Insert,
            "pe100-sdr11" => Self::Compression,
            "copper-l" => Self::Soldered,
            "galvanised" => Self::Threaded,
            "drip-poly" | "dripline" | "micro-tube" | "tape" => Self::Drip,
            _ => return None,
        })
    }
    /// Pipe that is bent where it turns, rather than elbowed, as far as it gives.
    pub fn bends(self) -> bool {
        matches!(self, Self::Insert | Self::Compression | Self::Drip)
    }
    /// Its word in files.
    pub fn word(self) -> &'static str {
        match self {
            Self::Glued => "glued",
            Self::Insert => "insert",
            Self::Compression => "compression",
            Self::Soldered => "soldered",
            Self::Threaded => "threaded",
            Self::Drip => "drip",
        }
    }
}

/// What a fitting does.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum FittingForm {
    /// Three ends of pipe.
    Tee,
    /// Four ends.
    Cross,
    /// Turns by a right angle.
    #[serde(rename = "elbow-90")]
    Elbow90,
    /// Turns by half of that.
    #[serde(rename = "elbow-45")]
    Elbow45,
    /// Two ends in line.
    Coupling,
    /// Closes an end.
    Cap,
    /// From a size to a smaller one.
    Reducer,
    /// Can be undone.
    Union,
    /// Pipe to an outside thread.
    MaleAdapter,
    /// Pipe to an inside thread.
    FemaleAdapter,
    /// Two ends of pipe, and a thread for a head.
    TeeThreaded,
    /// One end of pipe, and a thread for a head.
    ElbowThreaded,
    /// Shut by hand.
    BallValve,
}

impl FittingForm {
    /// Its word in files.
    pub fn word(self) -> &'static str {
        match self {
            Self::Tee => "tee",
            Self::Cross => "cross",
            Self::Elbow90 => "elbow-90",
            Self::Elbow45 => "elbow-45",
            Self::Coupling => "coupling",
            Self::Cap => "cap",
            Self::Reducer => "reducer",
            Self::Union => "union",
            Self::MaleAdapter => "male-adapter",
            Self::FemaleAdapter => "female-adapter",
            Self::TeeThreaded => "tee-threaded",
            Self::ElbowThreaded => "elbow-threaded",
            Self::BallValve => "ball-valve",
        }
    }
    /// Ends of pipe that it takes.
    pub fn pipe_ends(self) -> u32 {
        match self {
            Self::Cross => 4,
            Self::Tee => 3,
            Self::Cap | Self::MaleAdapter | Self::FemaleAdapter | Self::ElbowThreaded => 1,
            Self::Elbow90
            | Self::Elbow45
            | Self::Coupling
            | Self::Reducer
            | Self::Union
            | Self::TeeThreaded
            | Self::BallValve => 2,
        }
    }
}

/// A row: one form of one system in the sizes that it is made in.
#[derive(Debug, Clone, PartialEq)]
pub struct FittingRow {
    /// Its system.
    pub system: FittingSystem,
    /// Its form.
    pub form: FittingForm,
    /// For people, without sizes.
    pub label: String,
    /// Sizes of pipe.
    pub sizes: Vec<String>,
    /// Threads; none: no thread.
    pub threads: Threads,
}

/// Threads that a form is made with.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Threads {
    /// It has none.
    None,
    /// That of its own size.
    Own,
    /// One of these.
    OneOf(Vec<String>),
}

#[derive(Deserialize)]
struct FittingCsv {
    system: FittingSystem,
    form: FittingForm,
    label: String,
    sizes: String,
    threads: String,
}

pub(super) fn fittings() -> Vec<FittingRow> {
    let list = |text: &str| text.split(';').map(str::to_owned).collect::<Vec<_>>();
    rows::<FittingCsv>(include_str!("data/fittings.csv"))
        .into_iter()
        .map(|r| FittingRow {
            system: r.system,
            form: r.form,
            label: r.label,
            sizes: list(&r.sizes),
            threads: match r.threads.as_str() {
                "" => Threads::None,
                "own" => Threads::Own,
                some => Threads::OneOf(list(some)),
            },
        })
        .collect()
}

/// The pipe thread that goes with a size of pipe; metric pipe has one too.
pub fn thread_of(size: &str) -> &str {
    match size {
        "20mm" | "17mm" | "5/8in" => "1/2in",
        "25mm" => "3/4in",
        "32mm" => "1in",
        "40mm" => "1-1/4in",
        "50mm" => "1-1/2in",
        "63mm" => "2in",
        own => own,
    }
}
