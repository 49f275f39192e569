//! The company's stock and its kits, and what of a job's list has come.

use crate::{Scope, StoreError};
use fenlo_core::pricing::{Goods, Kit};
use rust_decimal::Decimal;
use std::collections::HashMap;

/// Kits of a company at most.
const MOST_KITS: i64 = 500;
/// Parts in stock at most.
const MOST_KEPT: i64 = 20_000;
/// Of one part at most: as much as a column holds.
pub const MOST_OF_ONE: i64 = 1_000_000;

/// A part in stock.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Stocked {
    /// As takeoffs name it.
    pub part: String,
    /// For people.
    pub text: String,
    /// How many.
    pub quantity: Decimal,
}

impl Scope {
    /// The company's kits, by their text.
    ///
    /// # Errors
    /// [`StoreError::Unavailable`].
    pub async fn kits(&self) -> Result<Vec<Kit>, StoreError> {
        let rows = sqlx::query!(
            "select number, text, parts from kits where company_id = $1 order by text, number",
            self.company
        );
        let rows = rows.fetch_all(&self.pool).await?;
        let kit = |number, text, parts| {
            let parts = serde_json::from_value(parts).map_err(StoreError::broken)?;
            Ok(Kit { number, text, parts })
        };
        rows.into_iter().map(|r| kit(r.number, r.text, r.parts)).collect()
    }

    /// Keeps a kit, in place of one of the same number.
    ///
    /// # Errors
    /// [`StoreError::Full`], [`StoreError::Unavailable`].
    pub async fn put_kit(&self, kit: &Kit) -> Result<(), StoreError> {
        let others = sqlx::query_scalar!(
            r#"select count(*) as "n!" from kits where company_id = $1 and number <> $2"#,
            self.company,
            kit.number
        )
        .fetch_one(&self.pool)
        .await?;
        if others >= MOST_KITS {
            return Err(StoreError::Full("kits"));
        }
        let parts = serde_json::to_value(&kit.parts).map_err(StoreError::broken)?;
        sqlx::query!(
            "insert into kits (company_id, number, text, parts) values ($1, $2, $3, $4)
             on conflict (company_id, number) do update set text = $3, parts = $4",
            self.company,
            kit.number,
            kit.text,
            parts
        )
        .execute(&self.pool)
        .await?;
        Ok(())
    }

    /// Takes a kit away.
    ///
    /// # Errors
    /// [`StoreError::Unavailable`].
    pub async fn remove_kit(&self, number: &str) -> Result<(), StoreError> {
        sqlx::query!("delete from kits where company_id = $1 and number = $2", self.company, number)
            .execute(&self.pool)
            .await?;
        Ok(())
    }

    /// All that is in stock, by its text.
    ///
    /// # Errors
    /// [`StoreError::Unavailable`].
    pub async fn stock(&self) -> Result<Vec<Stocked>, StoreError> {
        let rows = sqlx::query_as!(
            Stocked,
            "select part, text, quantity from stock where company_id = $1 order by text, part",
            self.company
        );
        let mut all = rows.fetch_all(&self.pool).await?;
        // 9, not 9.000 as the column holds it.
        all.iter_mut().for_each(|s| s.quantity = s.quantity.normalize());
        Ok(all)
    }

    /// Says how many of a part are in stock, as counted; none takes it out.
    ///
    /// # Errors
    /// [`StoreError::NotFound`]: it was not in stock; [`StoreError::Unavailable`].
    pub async fn count_stock(&self, part: &str, quantity: Decimal) -> Result<(), StoreError> {
        let done = if quantity.is_zero() {
            sqlx::query!("delete from stock where company_id = $1 and part = $2", self.company, part)
                .execute(&self.pool)
                .await?
        } else {
            sqlx::query!(
                "update stock set quantity = $3 where company_id = $1 and part = $2",
                self.company,
                part,
                quantity
            )
            .execute(&self.pool)
            .await?
        };
        (done.rows_affected() > 0).then_some(()).ok_or(StoreError::NotFound)
    }

    /// What of a job's list has come.
    ///
    /// # Errors
    /// [`StoreError::Unavailable`].
    pub async fn goods(&self, job: i64) -> Result<HashMap<String, Goods>, StoreError> {
        let rows = sqlx::query!(
            "select g.part, g.from_stock, g.arrived, g.to_stock from job_goods g join jobs j on j.id = g.job_id
             where g.job_id = $1 and j.company_id = $2",
            job,
            self.company
        )
        .fetch_all(&self.pool)
        .await?;
        let known = rows.into_iter().map(|r| {
            let goods = Goods { from_stock: r.from_stock, arrived: r.arrived, to_stock: r.to_stock };
            (r.part, goods)
        });
        Ok(known.collect())
    }

    /// Says how many of a part have been delivered, as counted.
    ///
    /// # Errors
    /// [`StoreError::NotFound`], [`StoreError::Unavailable`].
    pub async fn arrived(&self, job: i64, part: &str, quantity: Decimal) -> Result<(), StoreError> {
        let done = sqlx::query!(
            "insert into job_goods (job_id, part, arrived) select id, $3, $4 from jobs
             where id = $1 and company_id = $2 and shelf <> 'deleted'
             on conflict (job_id, part) do update set arrived = $4",
            job,
            self.company,
            part,
            quantity
        )
        .execute(&self.pool)
        .await?;
        (done.rows_affected() > 0).then_some(()).ok_or(StoreError::NotFound)
    }

    /// Moves so many of a part from stock to a job, no more than there are; gives how many.
    ///
    /// # Errors
    /// [`StoreError::NotFound`]: no such job, or none in stock; [`StoreError::Unavailable`].
    pub async fn take_stock(&self, job: i64, part: &str, quantity: Decimal) -> Result<Decimal, StoreError> {
        let mut tx = self.pool.begin().await?;
        let kept = sqlx::query_scalar!(
            "select quantity from stock where company_id = $1 and part = $2 for update",
            self.company,
            part
        )
        .fetch_one(&mut *tx)
        .await?;
        let taken = quantity.min(kept);
        let done = sqlx::query!(
            "insert into job_goods (job_id, part, from_stock) select id, $3, $4 from jobs
             where id = $1 and company_id = $2 and shelf <> 'deleted'
             on conflict (job_id, part) do update set from_stock = job_goods.from_stock + $4",
            job,
            self.company,
            part,
            taken
        )
        .execute(&mut *tx)
        .await?;
        if done.rows_affected() == 0 {
            return Err(StoreError::NotFound);
        }
        if taken == kept {
            sqlx::query!("delete from stock where company_id = $1 and part = $2", self.company, part)
                .execute(&mut *tx)
                .await?;
        } else {
            sqlx::query!(
                "update stock set quantity = quantity - $3 where company_id = $1 and part = $2",
                self.company,
                part,
                taken
            )
            .execute(&mut *tx)
            .await?;
        }
        tx.commit().await?;
        Ok(taken)
    }

    /// Moves so many of a part that a job has to the stock, no more than it has; gives how many.
    ///
    /// # Errors
    /// [`StoreError::Full`]; [`StoreError::NotFound`]: the job has none of it; [`StoreError::Unavailable`].
    pub async fn put_in_stock(
        &self,
        job: i64,
        part: &str,
        text: &str,
        quantity: Decimal,
    ) -> Result<Decimal, StoreError> {
        let mut tx = self.pool.begin().await?;
        let here = sqlx::query_scalar!(
            r#"select g.from_stock + g.arrived - g.to_stock as "n!" from job_goods g join jobs j on j.id = g.job_id
               where g.job_id = $1 and j.company_id = $2 and g.part = $3 for update of g"#,
            job,
            self.company,
            part
        )
        .fetch_one(&mut *tx)
        .await?;
        let moved = quantity.min(here);
        if moved <= Decimal::ZERO {
            return Err(StoreError::NotFound);
        }
        let others = sqlx::query_scalar!(
            r#"select count(*) as "n!" from stock where company_id = $1 and part <> $2"#,
            self.company,
            part
        )
        .fetch_one(&mut *tx)
        .await?;
        if others >= MOST_KEPT {
            return Err(StoreError::Full("parts in stock"));
        }
        sqlx::query!(
            "update job_goods set to_stock = to_stock + $3 where job_id = $1 and part = $2",
            job,
            part,
            moved
        )
        .execute(&mut *tx)
        .await?;
        sqlx::query!(
            "insert into stock (company_id, part, text, quantity) values ($1, $2, $3, $4)
             on conflict (company_id, part) do update set text = $3, quantity = stock.quantity + $4",
            self.company,
            part,
            text,
            moved
        )
        .execute(&mut *tx)
        .await?;
        tx.commit().await?;
        Ok(moved)
    }
}
