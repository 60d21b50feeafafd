"""Noise reduction by a reference library (scikit-image), and PSNR and SSIM of every result.

Reads NAME.noisy.png, NAME.clean.png and NAME.METHOD.png in a folder; prints one JSON list.
"""
import glob
import json
import os
import sys
import time

import numpy as np
from skimage.io import imread
from skimage.metrics import peak_signal_noise_ratio, structural_similarity
from skimage.restoration import denoise_nl_means, denoise_wavelet


def scored(name, method, clean, result, seconds=None):
    return {
        "name": name,
        "method": method,
        "psnr": float(peak_signal_noise_ratio(clean, result, data_range=1)),
        "ssim": float(structural_similarity(clean, result, data_range=1, channel_axis=2)),
        "seconds": seconds,
    }


def timed(work):
    start = time.perf_counter()
    result = work()
    return np.clip(result, 0, 1), time.perf_counter() - start


def rates(path, sigma=15 / 255):
    """Megapixels a second over one large picture; non-local means over a part of it, which is slow enough."""
    noisy = imread(path).astype(float) / 255
    part = noisy[:1000, :1500]
    _, wavelet = timed(lambda: denoise_wavelet(noisy, sigma=sigma, convert2ycbcr=True, rescale_sigma=True, method="BayesShrink", channel_axis=2))
    _, means = timed(lambda: denoise_nl_means(part, patch_size=5, patch_distance=6, h=0.8 * sigma, sigma=sigma, fast_mode=True, channel_axis=2))
    return {
        "wavelet": noisy.shape[0] * noisy.shape[1] / 1e6 / wavelet,
        "means": part.shape[0] * part.shape[1] / 1e6 / means,
    }


if sys.argv[1] == "--whole":
    json.dump(rates(sys.argv[2]), sys.stdout)
    sys.exit()

rows = []
folder = sys.argv[1]
for path in sorted(glob.glob(os.path.join(folder, "*.noisy.png"))):
    name = os.path.basename(path)[: -len(".noisy.png")]
    clean = imread(os.path.join(folder, name + ".clean.png")).astype(float) / 255
    noisy = imread(path).astype(float) / 255
    rows.append(scored(name, "noisy", clean, noisy))
    # The references are told the true deviation; ours measures it.
    known = float(np.std(noisy - clean))
    means, seconds = timed(lambda: denoise_nl_means(noisy, patch_size=5, patch_distance=6, h=0.8 * known, sigma=known, fast_mode=True, channel_axis=2))
    rows.append(scored(name, "non-local means", clean, means, seconds))
    wavelet, seconds = timed(lambda: denoise_wavelet(noisy, sigma=known, convert2ycbcr=True, rescale_sigma=True, method="BayesShrink", channel_axis=2))
    rows.append(scored(name, "wavelet", clean, wavelet, seconds))
    for ours in sorted(glob.glob(os.path.join(folder, name + ".ours*.png"))):
        method = os.path.basename(ours)[len(name) + 1 : -4]
        rows.append(scored(name, method, clean, imread(ours).astype(float) / 255))
json.dump(rows, sys.stdout)
