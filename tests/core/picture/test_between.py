"""Pictures between two frames."""

from __future__ import annotations

import numpy as np
import pytest
from numpy.typing import NDArray

from waxseal.core.picture.light.frame_mixing import mix, move, unsure_share


def ball(x: float) -> NDArray[np.float32]:
    """A soft textured disc on a textured ground, (120, 200, 3), its centre at x."""
    down, across = np.mgrid[0:120, 0:200].astype(np.float32)
    random = np.random.default_rng(5)
    ground = np.kron(random.random((12, 20)), np.ones((10, 10))).astype(np.float32) * 0.15
    away = np.hypot(across - x, down - 60)
    cover = np.clip(26 - away, 0, 1)
    face = 0.6 + 0.3 * np.sin((across - x) / 4) * np.cos(down / 5)
    return np.repeat((ground * (1 - cover) + face * cover)[..., None], 3, axis=2).astype(np.float32)


def test_mixing_is_in_light_and_exact() -> None:
    one, other = np.full((2, 2, 3), 0.2, np.float32), np.full((2, 2, 3), 1.0, np.float32)
    np.testing.assert_allclose(mix(one, other, 0.25), 0.4, rtol=1e-6)


@pytest.mark.parametrize("share", [0.25, 0.5, 0.75])
def test_what_moves_is_moved_to_where_it_should_be(share: float) -> None:
    before, after = ball(80), ball(92)
    wanted = ball(80 + 12 * share)
    ours = np.abs(move(before, after, share) - wanted).mean()
    blended = np.abs(mix(before, after, share) - wanted).mean()
    assert ours < blended * 0.55


def test_frames_that_are_alike_stay_alike() -> None:
    one = ball(80)
    np.testing.assert_array_equal(move(one, one.copy(), 0.5), one)


def test_it_says_where_it_is_unsure() -> None:
    still = unsure_share(ball(80), ball(82))
    random = np.random.default_rng(1)
    cut = unsure_share(ball(80), random.random((120, 200, 3)).astype(np.float32))
    assert still < 0.05
    assert cut > 0.5
