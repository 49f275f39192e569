//! The daily question: how many of these on one valve, what is left at the last head, which
//! regulator. The question is a small plan, so that it can become a job.
//!
//! | file | idea |
//! |---|---|
//! | `form` | the fields of the question as they are typed, on a page or as flags |
//! | `question` | what is asked, as a plan |
//! | `answer` | what is known of it: counts, the zone, ways to regulate |

mod answer;
mod form;
mod question;
#[cfg(test)]
mod tests;

pub use answer::{Answer, answer};
pub use form::{Bare, Field, FieldFault, Form, field};
pub use question::Question;
