"""What comes between poses: breakdowns, charts, holds, overlap, snaps and bounces."""
