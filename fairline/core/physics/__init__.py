"""What instruments and stages both rest on: constants, gases, tubes, decays."""
