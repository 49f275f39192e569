use super::{Change, Edit, EditError, Subject, replay};
use crate::plan::Plan;
use serde::{Deserialize, Serialize};

/// Several changes as one step: all of them or none.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Batch {
    /// In the order in which they are done.
    pub edits: Vec<Edit>,
}

impl Change for Batch {
    fn apply(&self, plan: &mut Plan) -> Result<Edit, EditError> {
        let mut back = self.edits.iter().map(|e| replay(plan, e)).collect::<Result<Vec<_>, _>>()?;
        back.reverse();
        Ok(Edit::batch(back))
    }
    fn subjects(&self) -> Vec<Subject> {
        let mut all: Vec<Subject> = Vec::new();
        for subject in self.edits.iter().flat_map(Edit::subjects) {
            if !all.contains(&subject) {
                all.push(subject);
            }
        }
        all
    }
    fn words(&self) -> String {
        self.edits.first().map_or_else(|| "No change".into(), Edit::describe)
    }
}
