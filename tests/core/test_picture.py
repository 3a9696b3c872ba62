import io

import numpy as np
import pytest
from PIL import Image

from drelo.core.errors import Refusal
from drelo.core.picture import decode as decoding
from drelo.core.picture.decode import decode
from drelo.core.picture.field import ink_field
from drelo.core.picture.show import MAX_SIDE, shown
from drelo.words.spoken import sentence
from tests.conftest import covered, picture_of, png
from tests.refusals import refused


def test_upright_by_exif():
    image = Image.new("RGB", (60, 30), "white")
    image.paste("black", (0, 0, 10, 30))
    exif = Image.Exif()
    exif[0x0112] = 6
    packed = io.BytesIO()
    image.save(packed, "JPEG", exif=exif, quality=95)
    picture = decode(packed.getvalue())
    assert (picture.width, picture.height) == (30, 60)
    assert picture.rgb[2].mean() < 60
    assert picture.rgb[-5].mean() > 220


@pytest.mark.parametrize("mode", ["1", "L", "P", "RGB", "CMYK", "I;16", "LA", "RGBA"])
def test_modes_read_alike(mode):
    grey = Image.new("L", (40, 40), 255)
    grey.paste(0, (10, 10, 30, 30))
    if mode == "I;16":
        image = Image.fromarray(np.asarray(grey).astype(np.uint16) * 257)
    else:
        image = grey.convert("RGB").convert(mode) if mode not in ("1", "LA") else grey.convert(mode)
    packed = io.BytesIO()
    image.save(packed, "TIFF" if mode == "CMYK" else "PNG")
    picture = decode(packed.getvalue())
    assert picture.alpha is None
    assert picture.rgb[20, 20].max() < 30
    assert picture.rgb[2, 2].min() > 225


def test_alpha_counts_only_when_it_means_something():
    image = Image.new("RGBA", (50, 50), (255, 255, 255, 0))
    image.paste((240, 240, 240, 255), (10, 10, 40, 40))
    picture = decode(png(image))
    assert picture.alpha is not None
    field = ink_field(picture, None, False)
    assert field.values[25, 25] > field.level > field.values[2, 2]
    opaque = Image.new("RGBA", (50, 50), (255, 255, 255, 255))
    opaque.paste((0, 0, 0, 255), (10, 10, 40, 40))
    assert decode(png(opaque)).alpha is None


def test_resolution_becomes_size():
    packed = io.BytesIO()
    Image.new("L", (40, 40)).save(packed, "PNG", dpi=(254, 254))
    assert decode(packed.getvalue()).mm_per_px == pytest.approx(0.1, rel=1e-3)
    assert decode(png(Image.new("L", (40, 40)))).mm_per_px is None


def bomb() -> bytes:
    packed = io.BytesIO()
    Image.new("1", (30_000, 30_000)).save(packed, "PNG")
    return packed.getvalue()


BAD = {
    "nothing": b"",
    "no picture": b"just some words, no picture at all " * 20,
    "cut off": png(covered(lambda x, y: np.hypot(x - 100, y - 100) < 80, 200, 200))[:900],
    "svg": b'<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"><rect width="5" height="5"/></svg>',
    "one pixel": png(Image.new("L", (1, 1))),
    "40 MB": b"\x89PNG\r\n\x1a\n" + bytes(40 * 2**20),
}


@pytest.mark.parametrize("name", [*BAD, "bomb"])
def test_bad_pictures_are_refused_with_advice(name):
    data = bomb() if name == "bomb" else BAD[name]
    with pytest.raises(Refusal) as refused:
        decode(data)
    assert len(sentence(refused.value)) > 30
    assert sentence(refused.value).endswith(".")


def test_one_tone_is_refused():
    with refused("one tone"):
        ink_field(decode(png(Image.new("RGB", (80, 80), "white"))), None, False)


@pytest.mark.parametrize(("ground", "shape"), [((176, 60, 60), (40, 118, 40)), ((60, 120, 220), (150, 105, 60))])
def test_colours_of_one_darkness_are_told_apart(ground, shape):
    share = 1 - np.asarray(covered(lambda x, y: np.hypot(x - 50, y - 50) < 30, 100, 100), float)[..., None] / 255
    rgb = np.asarray(ground) + share * (np.asarray(shape) - np.asarray(ground, float))
    field = ink_field(decode(png(Image.fromarray(np.round(rgb).astype(np.uint8)))), None, False)
    assert field.values[50, 50] == pytest.approx(1, abs=0.05)
    assert field.values[5, 5] == pytest.approx(0, abs=0.05)
    assert float((field.values > field.level).mean()) == pytest.approx(np.pi * 0.3**2, abs=0.003)


def test_level_lies_midway_between_paper_and_ink():
    image = covered(lambda x, y: np.hypot(x - 50, y - 50) < 30, 100, 100).point(lambda v: 60 + v * 0.6)
    field = ink_field(decode(png(image)), None, False)
    assert field.darkness == pytest.approx(1 - (60 + 60 + 153) / 2 / 255, abs=0.01)
    assert not field.hard


def test_invert_turns_light_and_dark_round():
    picture = picture_of(lambda x, y: np.hypot(x - 50, y - 50) < 30, 100, 100)
    plain, turned = ink_field(picture, 0.3, False), ink_field(picture, 0.3, True)
    assert np.array_equal(plain.values > plain.level, ~(turned.values > turned.level))


def test_hard_edges_and_noise_are_noticed():
    hard = covered(lambda x, y: np.hypot(x - 60, y - 60) < 40, 120, 120).convert("1").convert("L")
    assert ink_field(decode(png(hard)), None, False).hard
    rng = np.random.default_rng(1)
    noisy = np.asarray(covered(lambda x, y: np.hypot(x - 60, y - 60) < 40, 120, 120), float) * 0.7 + 40
    noisy = Image.fromarray(np.clip(noisy + rng.normal(0, 9, noisy.shape), 0, 255).astype(np.uint8))
    assert ink_field(decode(png(noisy)), None, False).noise == pytest.approx(9 / 0.7, rel=0.35)


def test_underlay_is_reduced_and_keeps_alpha():
    picture = picture_of(lambda x, y: x < 50, 100, 60)
    data, media_type = shown(picture)
    assert media_type == "image/jpeg"
    large = decoding.Picture(np.zeros((100, 3000, 3), np.uint8), np.zeros((100, 3000), np.uint8), None, "image/png")
    data, media_type = shown(large)
    assert media_type == "image/png"
    assert Image.open(io.BytesIO(data)).size[0] == MAX_SIDE
