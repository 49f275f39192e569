use super::Plan;
use crate::catalogue::Catalogue;
use std::sync::{Arc, OnceLock};

/// Tables kept beside the rows that they were made of. No part of what a plan says: two plans are
/// the same whether or not they were asked for their tables.
#[derive(Debug, Clone, Default)]
pub struct Tables(OnceLock<Arc<Catalogue>>);

impl PartialEq for Tables {
    fn eq(&self, _: &Self) -> bool {
        true
    }
}

impl Plan {
    /// The built-in tables and the job's own rows.
    pub fn catalogue(&self) -> &Catalogue {
        self.with_own(Catalogue::builtin())
    }

    /// Tables and the job's own rows; they are put together once, from the first tables asked with.
    pub(crate) fn with_own<'a>(&'a self, tables: &'a Catalogue) -> &'a Catalogue {
        if self.nozzles.is_empty() && self.favourites.is_empty() {
            return tables;
        }
        self.tables
            .0
            .get_or_init(|| Arc::new(tables.with(&self.nozzles, &self.favourites)))
    }
}
