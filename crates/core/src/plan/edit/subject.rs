/// What an edit changes: two people's edits collide when these meet.
#[derive(Debug, Clone, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub enum Subject {
    /// Name, place, notes, units.
    Job,
    /// The house's rules.
    Rules,
    /// A point of connection.
    Supply(String),
    /// A group of heads.
    Group(String),
    /// A valve.
    Valve(String),
    /// Something on the ground.
    Object(String),
    /// Where north lies.
    North,
    /// The picture beneath the drawing.
    Underlay,
    /// A nozzle of the house.
    Nozzle(String),
    /// What is on the truck.
    Favourites,
    /// A joint of the pipe.
    Joint(String),
    /// A pipe.
    Leg(String),
    /// What evaporates and falls.
    Climate,
    /// Hours and days of watering, and the controller.
    Watering,
    /// The tariff and the meter.
    Usage,
    /// A valve's station.
    Station(String),
    /// A line of the list of parts.
    PartLine(String),
    /// Group and head.
    Head(String, String),
}

impl Subject {
    /// True if a change of one may not stand beside a change of the other: they are the same, or
    /// one is a head of the other.
    pub fn meets(&self, other: &Self) -> bool {
        match (self, other) {
            (Self::Group(g), Self::Head(of, _)) | (Self::Head(of, _), Self::Group(g)) => g == of,
            _ => self == other,
        }
    }

    /// Marks that a change of it leaves, for an index of what was touched last: two subjects meet
    /// where one leaves a mark that the other looks for ([`Subject::looks_for`]).
    pub fn marks(&self) -> Vec<String> {
        match self {
            Self::Head(group, _) => vec![self.mark(), format!("heads-of/{group}")],
            _ => vec![self.mark()],
        }
    }

    /// Marks of others that may not stand beside a change of it.
    pub fn looks_for(&self) -> Vec<String> {
        match self {
            Self::Head(group, _) => vec![self.mark(), format!("group/{group}")],
            Self::Group(id) => vec![self.mark(), format!("heads-of/{id}")],
            _ => vec![self.mark()],
        }
    }

    fn mark(&self) -> String {
        match self {
            Self::Job => "job".into(),
            Self::Rules => "rules".into(),
            Self::Supply(id) => format!("supply/{id}"),
            Self::Group(id) => format!("group/{id}"),
            Self::Head(group, id) => format!("head/{group}/{id}"),
            Self::Valve(id) => format!("valve/{id}"),
            Self::Object(id) => format!("object/{id}"),
            Self::North => "north".into(),
            Self::Underlay => "underlay".into(),
            Self::Nozzle(id) => format!("nozzle/{id}"),
            Self::Favourites => "favourites".into(),
            Self::Joint(id) => format!("joint/{id}"),
            Self::Leg(id) => format!("leg/{id}"),
            Self::Climate => "climate".into(),
            Self::Watering => "watering".into(),
            Self::Usage => "usage".into(),
            Self::Station(id) => format!("station/{id}"),
            Self::PartLine(id) => format!("part-line/{id}"),
        }
    }
}
