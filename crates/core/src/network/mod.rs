//! A pressurised network and its solution.
//!
//! Heads draw by pressure, so flow and pressure are solved together. The model is a graph of nodes
//! joined by links (pipes, one-way devices, regulators), fed by sources and emptied by emitters;
//! trees and loops alike.
//!
//! | file | idea |
//! |---|---|
//! | `model` | nodes, links, emitters, sources |
//! | `curve` | monotone curves through given points |
//! | `law` | how much each part costs at a flow |
//! | `matrix` | the sparse symmetric system of one Newton step |
//! | `solve` | the method |
//! | `report` | the answer, its residuals |

mod curve;
mod law;
mod matrix;
mod model;
mod report;
mod solve;
#[cfg(test)]
mod tests;

pub use curve::{Curve, CurveError};
pub use law::{hazen_williams, hazen_williams_flow};
pub use model::{Emission, Emitter, Link, LinkKind, Loss, Network, Node, Source, SourceLaw};
pub use report::{EmitterResult, LinkResult, LinkState, Residual, Solution};
pub use solve::{Params, SolveError, solve, solve_with};
