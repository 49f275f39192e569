//! Nozzles that the company keeps for all its jobs.

use crate::{Scope, StoreError};
use fenlo_core::catalogue::OwnNozzle;
use fenlo_core::pricing::HouseNozzles;

impl Scope {
    /// The company's nozzles, by name, and those on its trucks.
    ///
    /// # Errors
    /// [`StoreError::Unavailable`].
    pub async fn house_nozzles(&self) -> Result<HouseNozzles, StoreError> {
        let bodies = sqlx::query_scalar!(
            "select body from nozzles where company_id = $1 order by body->>'label', nozzle_id",
            self.company
        )
        .fetch_all(&self.pool)
        .await?;
        let truck = sqlx::query_scalar!("select truck from companies where id = $1", self.company)
            .fetch_optional(&self.pool)
            .await?;
        // What an older version wrote and this one can't read is left out: the rest is of use.
        let read = |body| serde_json::from_value::<OwnNozzle>(body).ok();
        Ok(HouseNozzles {
            nozzles: bodies.into_iter().filter_map(read).collect(),
            truck: truck.and_then(|t| serde_json::from_value(t).ok()).unwrap_or_default(),
        })
    }

    /// Keeps these, in place of all that were kept. Check them first: [`HouseNozzles::alone`].
    ///
    /// # Errors
    /// [`StoreError::Unavailable`].
    pub async fn keep_nozzles(&self, house: &HouseNozzles) -> Result<(), StoreError> {
        let ids: Vec<String> = house.nozzles.iter().map(|n| n.id.clone()).collect();
        let bodies: Result<Vec<_>, _> = house.nozzles.iter().map(serde_json::to_value).collect();
        let bodies = bodies.map_err(StoreError::broken)?;
        let truck = serde_json::to_value(&house.truck).map_err(StoreError::broken)?;
        let mut tx = self.pool.begin().await?;
        sqlx::query!("delete from nozzles where company_id = $1", self.company).execute(&mut *tx).await?;
        sqlx::query!(
            "insert into nozzles (company_id, nozzle_id, body)
             select $1, id, body from unnest($2::text[], $3::jsonb[]) as new (id, body)",
            self.company,
            &ids,
            &bodies
        )
        .execute(&mut *tx)
        .await?;
        sqlx::query!("update companies set truck = $2 where id = $1", self.company, truck)
            .execute(&mut *tx)
            .await?;
        tx.commit().await?;
        Ok(())
    }
}
