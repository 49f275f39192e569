/// What the plan does not say, so that it is not counted.
#[derive(Debug, Clone, PartialEq)]
pub enum Missing {
    /// No controller is drawn, or no main: wire is not counted.
    Wire,
    /// No main reaches these valves: their wire is not counted.
    WireTo(Vec<String>),
    /// Drip of these groups can't be laid as it is wished.
    DripNotLaid(Vec<String>),
    /// These valves have heads, but neither main nor mainline: pipe to them is not counted.
    Main(Vec<String>),
    /// So many heads are on no valve: their pipe is not counted.
    Unassigned(usize),
    /// Laterals of these valves are not drawn: counted by the shortest straight legs.
    Straight(Vec<String>),
}
