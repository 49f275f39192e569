//! The ground: what stands on it, where north lies, the picture beneath. Its faults are the site's.

use super::{Change, Edit, EditError, Listed, Put, Remove, Subject};
use crate::plan::Plan;
use crate::site::{SiteObject, Underlay};
use serde::{Deserialize, Serialize};

impl Listed for SiteObject {
    const WHAT: &'static str = "object on the plan";
    const KEY: &'static str = "thing";
    const REMOVE_WORDS: &'static str = "Removed from the plan";

    fn id(&self) -> &str {
        &self.id
    }
    fn list<'p>(plan: &'p mut Plan, _: Option<&str>) -> Result<&'p mut Vec<Self>, EditError> {
        Ok(&mut plan.site.objects)
    }
    fn subject(_: Option<&str>, id: &str) -> Subject {
        Subject::Object(id.to_owned())
    }
    fn put_words(&self) -> String {
        format!("{} on the plan", self.title())
    }
    fn put(put: Put<Self>) -> Edit {
        Edit::PutObject(put)
    }
    fn remove(remove: Remove<Self>) -> Edit {
        Edit::RemoveObject(remove)
    }
}

/// Degrees from the top of the sheet to north, clockwise.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct SetNorth {
    /// 0 up to 360.
    pub degrees: f64,
}

impl Change for SetNorth {
    fn apply(&self, plan: &mut Plan) -> Result<Edit, EditError> {
        let degrees = std::mem::replace(&mut plan.site.north, self.degrees);
        Ok(Edit::SetNorth(Self { degrees }))
    }
    fn subjects(&self) -> Vec<Subject> {
        vec![Subject::North]
    }
    fn words(&self) -> String {
        "North".into()
    }
}

/// Lays a picture beneath the drawing, or none.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct SetUnderlay {
    /// The picture and how it lies.
    pub underlay: Option<Underlay>,
}

impl Change for SetUnderlay {
    fn apply(&self, plan: &mut Plan) -> Result<Edit, EditError> {
        let underlay = std::mem::replace(&mut plan.site.underlay, self.underlay.clone());
        Ok(Edit::SetUnderlay(Self { underlay }))
    }
    fn subjects(&self) -> Vec<Subject> {
        vec![Subject::Underlay]
    }
    fn words(&self) -> String {
        if self.underlay.is_some() { "Background picture" } else { "Background picture removed" }.into()
    }
}
