"""Block matching and 3D filtering (Dabov, Foi, Katkovnik & Egiazarian 2007), a plain reference in NumPy.

Both passes, with the paper's groups (16, then 32 blocks of 8 x 8, 3 apart, looked for 16 pixels around), in one plane of brightness and
two of colour that share the groups of brightness. Told the true deviation, one for all frequencies, as it is published. Two things are not the paper's: the first transform is a
cosine transform too, and blocks are matched as they are, also in strong noise.

Reads NAME.noisy.png, NAME.clean.png and NAME.ours-thorough.png in a folder, and prints one JSON list of PSNR and SSIM in the middle.
"""
import glob
import json
import os
import re
import sys

import numpy as np
from scipy.fft import dctn, idctn
from skimage.io import imread
from skimage.metrics import peak_signal_noise_ratio, structural_similarity

EDGE = 8
STEP = 3
REACH = 16
HARD = 2.7
# White noise of three strengths, and a camera's, also after JPEG.
COMPARED = re.compile(r"_(s\d+|iso1600-85|iso6400|iso6400-85)$")
# Of a picture: it takes a minute for a quarter of a megapixel.
MIDDLE = 256

TO_OPPONENT = np.array([[1 / 3, 1 / 3, 1 / 3], [0.5, 0, -0.5], [0.25, -0.5, 0.25]])
FROM_OPPONENT = np.linalg.inv(TO_OPPONENT)
WINDOW = np.outer(np.kaiser(EDGE, 2), np.kaiser(EDGE, 2))


def starts(length):
    return np.unique(np.r_[np.arange(0, length - EDGE + 1, STEP), length - EDGE])


def groups(plane, size):
    """Places of the `size` blocks most like each reference block, itself first: size x references, as flat indices."""
    height, width = plane.shape
    y, x = np.meshgrid(starts(height), starts(width), indexing="ij")
    own = (y * width + x).ravel()
    distances = np.full((size, own.size), np.inf)
    places = np.tile(own, (size, 1))
    distances[0] = -1
    sums = np.zeros((height + 1, width + 1))
    column = np.arange(own.size)
    for dy in range(-REACH, REACH + 1):
        for dx in range(-REACH, REACH + 1):
            if dy == 0 and dx == 0:
                continue
            rows, columns = slice(max(0, -dy), height - max(0, dy)), slice(max(0, -dx), width - max(0, dx))
            moved = slice(rows.start + dy, rows.stop + dy), slice(columns.start + dx, columns.stop + dx)
            square = np.zeros_like(plane)
            square[rows, columns] = (plane[rows, columns] - plane[moved]) ** 2
            sums[1:, 1:] = square.cumsum(0).cumsum(1)
            apart = sums[y + EDGE, x + EDGE] - sums[y, x + EDGE] - sums[y + EDGE, x] + sums[y, x]
            inside = (y + dy >= 0) & (y + dy + EDGE <= height) & (x + dx >= 0) & (x + dx + EDGE <= width)
            apart = np.where(inside, apart, np.inf).ravel()
            worst = distances.argmax(0)
            nearer = np.nonzero(apart < distances[worst, column])[0]
            distances[worst[nearer], nearer] = apart[nearer]
            places[worst[nearer], nearer] = own[nearer] + dy * width + dx
    return places


def hadamard(size):
    matrix = np.ones((1, 1))
    while len(matrix) < size:
        matrix = np.block([[matrix, matrix], [matrix, -matrix]])
    return matrix / np.sqrt(size)


def filtered(plane, sigma, places, pilot=None):
    """One plane: hard thresholds, or, with a pilot, Wiener's gains."""
    height, width = plane.shape
    across = hadamard(len(places))
    block = (np.arange(EDGE)[:, None] * width + np.arange(EDGE)).ravel()
    total, weights = np.zeros(plane.size), np.zeros(plane.size)

    def spectra(source, index):
        blocks = source.ravel()[index].reshape(*index.shape[:2], EDGE, EDGE)
        return np.einsum("kj,jnab->knab", across, dctn(blocks, axes=(2, 3), norm="ortho"))

    for start in range(0, places.shape[1], 4096):
        index = places[:, start : start + 4096, None] + block
        spectrum = spectra(plane, index)
        if pilot is None:
            gains = (np.abs(spectrum) > HARD * sigma).astype(float)
        else:
            power = spectra(pilot, index) ** 2
            gains = power / (power + sigma**2)
        weight = 1 / np.maximum((gains**2).sum(axis=(0, 2, 3)), 1)
        blocks = idctn(np.einsum("jk,jnab->knab", across, spectrum * gains), axes=(2, 3), norm="ortho")
        share = np.broadcast_to(weight[None, :, None, None] * WINDOW, blocks.shape)
        total += np.bincount(index.ravel(), (blocks * share).ravel(), plane.size)
        weights += np.bincount(index.ravel(), share.ravel(), plane.size)
    return (total / weights).reshape(height, width)


def cleaned(noisy, sigma):
    planes = [noisy @ row for row in TO_OPPONENT]
    sigmas = [sigma * np.linalg.norm(row) for row in TO_OPPONENT]
    places = groups(planes[0], 16)
    pilots = [filtered(plane, deviation, places) for plane, deviation in zip(planes, sigmas)]
    places = groups(pilots[0], 32)
    results = [filtered(plane, deviation, places, pilot) for plane, deviation, pilot in zip(planes, sigmas, pilots)]
    return np.clip(np.stack(results, -1) @ FROM_OPPONENT.T, 0, 1)


def middle(path):
    picture = imread(path).astype(float) / 255
    top, left = ((side - MIDDLE) // 2 for side in picture.shape[:2])
    return picture[top : top + MIDDLE, left : left + MIDDLE]


def main(folder):
    rows = []
    for path in sorted(glob.glob(os.path.join(folder, "*.noisy.png"))):
        name = os.path.basename(path)[: -len(".noisy.png")]
        if not COMPARED.search(name):
            continue
        clean = middle(os.path.join(folder, name + ".clean.png"))
        noisy = middle(path)
        white = re.search(r"_s(\d+)$", name)
        deviation = int(white[1]) / 255 if white else float(np.std(noisy - clean))
        ours = middle(os.path.join(folder, name + ".ours-thorough.png"))
        for method, result in (("block matching", cleaned(noisy, deviation)), ("ours-thorough", ours)):
            psnr = peak_signal_noise_ratio(clean, result, data_range=1)
            ssim = structural_similarity(clean, result, data_range=1, channel_axis=2)
            rows.append({"name": name, "method": method, "psnr": float(psnr), "ssim": float(ssim)})
    json.dump(rows, sys.stdout)


main(sys.argv[1])
