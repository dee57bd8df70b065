"""How alike two pictures of one size look, by their structure."""

import numpy
from skimage.metrics import structural_similarity


def similarity_of(first: numpy.ndarray, second: numpy.ndarray, white: float) -> float:
    """The mean structural similarity of two grey pictures, 1 where they are the same.

    Both have the shape (height, width) and values from 0 to `white`. Each pixel is seen through a
    Gaussian window of 1.5 px, which is 11 px wide: Z. Wang and others, "Image Quality Assessment:
    From Error Visibility to Structural Similarity" (2004).

    Raises:
        ValueError: an edge is shorter than that window.
    """
    return float(
        structural_similarity(  # type: ignore[no-untyped-call]
            first,
            second,
            data_range=white,
            gaussian_weights=True,
            sigma=1.5,
            use_sample_covariance=False,
        )
    )
