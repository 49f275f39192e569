//! The sparse symmetric positive definite system of one Newton step. Its pattern is that of the
//! network, analysed once; values are refilled and factorised at every step.

use faer::dyn_stack::{MemBuffer, MemStack};
use faer::linalg::cholesky::llt::factor::LltRegularization;
use faer::sparse::linalg::cholesky::{
    CholeskySymbolicParams, SymbolicCholesky, SymmetricOrdering, factorize_symbolic_cholesky,
};
use faer::sparse::{SparseColMatRef, SymbolicSparseColMat};
use faer::{Conj, MatMut, Par, Side};

/// Lower triangle by columns, with right-hand side.
pub(super) struct System {
    pattern: SymbolicSparseColMat<usize>,
    symbolic: SymbolicCholesky<usize>,
    values: Vec<f64>,
    factor: Vec<f64>,
    memory: MemBuffer,
    pub(super) rhs: Vec<f64>,
    diagonal: Vec<usize>,
}

/// The step's matrix could not be factorised: part of the network hangs on nothing.
#[derive(Debug)]
pub(super) struct Singular;

impl System {
    /// A system of `n` unknowns coupled by `pairs`; returns, beside it, the slot of each pair.
    pub(super) fn new(n: usize, pairs: &[(usize, usize)]) -> Option<(Self, Vec<usize>)> {
        let mut columns: Vec<Vec<usize>> = (0..n).map(|i| vec![i]).collect();
        for &(a, b) in pairs {
            if a != b {
                columns[a.min(b)].push(a.max(b));
            }
        }
        let mut col_ptr = Vec::with_capacity(n + 1);
        let mut rows = Vec::with_capacity(n + pairs.len());
        col_ptr.push(0);
        for column in &mut columns {
            column.sort_unstable();
            column.dedup();
            rows.extend_from_slice(column);
            col_ptr.push(rows.len());
        }
        let diagonal = col_ptr[..n].to_vec();
        let slots = pairs
            .iter()
            .map(|&(a, b)| {
                let (row, col) = (a.max(b), a.min(b));
                let start = col_ptr[col];
                start + rows[start..col_ptr[col + 1]].binary_search(&row).unwrap_or(0)
            })
            .collect();
        let nnz = rows.len();
        let pattern = SymbolicSparseColMat::new_checked(n, n, col_ptr, None, rows);
        let symbolic = factorize_symbolic_cholesky(
            pattern.as_ref(),
            Side::Lower,
            SymmetricOrdering::Amd,
            CholeskySymbolicParams::default(),
        )
        .ok()?;
        let scratch = symbolic
            .factorize_numeric_llt_scratch::<f64>(Par::Seq, Default::default())
            .or(symbolic.solve_in_place_scratch::<f64>(1, Par::Seq));
        let factor = vec![0.0; symbolic.len_val()];
        let memory = MemBuffer::try_new(scratch).ok()?;
        Some((
            Self { pattern, symbolic, values: vec![0.0; nnz], factor, memory, rhs: vec![0.0; n], diagonal },
            slots,
        ))
    }

    pub(super) fn clear(&mut self) {
        self.values.fill(0.0);
        self.rhs.fill(0.0);
    }

    pub(super) fn add_diagonal(&mut self, i: usize, value: f64) {
        self.values[self.diagonal[i]] += value;
    }

    pub(super) fn add_slot(&mut self, slot: usize, value: f64) {
        self.values[slot] += value;
    }

    /// Factorises and leaves the solution in `rhs`.
    pub(super) fn solve(&mut self) -> Result<(), Singular> {
        let matrix = SparseColMatRef::new(self.pattern.as_ref(), &self.values);
        let stack = MemStack::new(&mut self.memory);
        let llt = self
            .symbolic
            .factorize_numeric_llt(
                &mut self.factor,
                matrix,
                Side::Lower,
                LltRegularization::default(),
                Par::Seq,
                stack,
                Default::default(),
            )
            .map_err(|_| Singular)?;
        let n = self.rhs.len();
        llt.solve_in_place_with_conj(
            Conj::No,
            MatMut::from_column_major_slice_mut(&mut self.rhs, n, 1),
            Par::Seq,
            stack,
        );
        if self.rhs.iter().all(|h| h.is_finite()) { Ok(()) } else { Err(Singular) }
    }
}
