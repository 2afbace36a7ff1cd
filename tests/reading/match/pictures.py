"""Synthetic pictures of the demo's courier: a run and a jump of a known tune, with blur and noise."""

import numpy as np
from PIL import Image, ImageDraw, ImageFilter

# Pixels per unit, and the size of a picture.
SCALE, SIZE, GROUND = 40.0, (480, 270), 220


def pictures_of(trace, rows, *, blur=1.0, noise=4.0, seed=3):
    """A picture for each of these rows of a trace, and the position of the feet in each."""
    chance = np.random.default_rng(seed)
    sky = np.tile(np.linspace(205, 235, SIZE[1])[:, np.newaxis, np.newaxis], (1, SIZE[0], 3))
    made, feet = [], []
    for row in rows:
        x, y = 60 + SCALE * float(trace["x"][row]), GROUND - SCALE * float(trace["y"][row])
        picture = Image.fromarray(sky.astype(np.uint8))
        draw = ImageDraw.Draw(picture)
        draw.rectangle((0, GROUND, SIZE[0], SIZE[1]), fill=(150, 140, 120))
        for brick in range(0, SIZE[0], 37):
            draw.line((brick, GROUND, brick, SIZE[1]), fill=(120, 110, 95))
        # A coat, a bag and boots, twice as large as drawn: edges lie between pixels.
        fine = Image.new("RGBA", (96 * 4, 160 * 4), (0, 0, 0, 0))
        pen = ImageDraw.Draw(fine)
        pen.rectangle((32 * 4, 76 * 4, 64 * 4, 132 * 4), fill=(40, 70, 150, 255))
        pen.ellipse((36 * 4, 52 * 4, 60 * 4, 78 * 4), fill=(220, 180, 150, 255))
        pen.rectangle((26 * 4, 92 * 4, 38 * 4, 112 * 4), fill=(180, 60, 30, 255))
        pen.rectangle((34 * 4, 130 * 4, 46 * 4, 140 * 4), fill=(30, 25, 20, 255))
        pen.rectangle((50 * 4, 130 * 4, 62 * 4, 140 * 4), fill=(90, 30, 25, 255))
        left, top = x - 48, y - 140
        whole = (int(np.floor(left)), int(np.floor(top)))
        shifted = fine.transform(
            fine.size, Image.Transform.AFFINE, (1, 0, -4 * (left - whole[0]), 0, 1, -4 * (top - whole[1]))
        )
        courier = shifted.resize((96, 160), Image.Resampling.BOX)
        picture.paste(courier, whole, courier)
        pixels = np.asarray(picture.filter(ImageFilter.GaussianBlur(blur)), dtype=float)
        made.append(Image.fromarray(np.clip(pixels + chance.normal(0, noise, pixels.shape), 0, 255).astype(np.uint8)))
        feet.append((x, y))
    return made, feet
