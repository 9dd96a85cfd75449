//! Small systems of linear equations.

/// Solves `matrix · x = right` by elimination with pivots; nothing where the equations do not tell one answer.
#[must_use]
pub fn solve<const N: usize>(mut matrix: [[f64; N]; N], mut right: [f64; N]) -> Option<[f64; N]> {
    for column in 0..N {
        let pivot = (column..N).max_by(|a, b| matrix[*a][column].abs().total_cmp(&matrix[*b][column].abs()))?;
        matrix.swap(column, pivot);
        right.swap(column, pivot);
        let lead = matrix[column][column];
        if lead.abs() <= f64::MIN_POSITIVE || !lead.is_finite() {
            return None;
        }
        for row in column + 1..N {
            let part = matrix[row][column] / lead;
            let above = matrix[column];
            for (value, above) in matrix[row].iter_mut().zip(above).skip(column) {
                *value -= part * above;
            }
            right[row] -= part * right[column];
        }
    }
    for row in (0..N).rev() {
        let known: f64 = (row + 1..N).map(|column| matrix[row][column] * right[column]).sum();
        right[row] = (right[row] - known) / matrix[row][row];
    }
    right.iter().all(|value| value.is_finite()).then_some(right)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn two_equations_by_hand_and_two_that_are_one() {
        // 2x + y = 5, x − y = 1: x = 2, y = 1
        assert_eq!(solve([[2.0, 1.0], [1.0, -1.0]], [5.0, 1.0]), Some([2.0, 1.0]));
        assert_eq!(solve([[0.0, 1.0], [1.0, 0.0]], [3.0, 4.0]), Some([4.0, 3.0]), "a pivot that is zero is passed over");
        assert_eq!(solve([[1.0, 1.0], [2.0, 2.0]], [1.0, 2.0]), None);
    }
}
