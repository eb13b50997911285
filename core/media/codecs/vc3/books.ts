/**
 * The code books of VC-3 (SMPTE ST 2019-1), six of them. They were learnt by asking a media library what it makes of
 * chosen bits, and every book fills its tree of codes. A code is written as its length in base 36 and its bits in base
 * 16.
 */

/** A code book: first coefficients by the bits of their differences, the end of a block, sizes, and runs. */
export interface Vc3Book {
  /** Of differences of 0 bits, 1 bit and so on. */
  first: readonly string[]
  end: string
  /** Sizes 1 to 64: alone; with a run behind; with more of the size behind; with both. */
  sizes: readonly (readonly string[])[]
  /** Runs of 1 to 62. */
  runs: readonly string[]
}

const words = (text: string): string[] => text.trim().split(/\s+/)

/** Of frames of 10 bits. */
const TEN: Vc3Book = {
  first: words(`
    4a 63e 4b 4c 4d 30 31 32 33 34 4e 51e 77e 77f`),
  end: '4b',
  sizes: [
    words(`
      20 34 4a 518 519 636 637 638 774 775 776 8f0 8f1 8f2 8f3 8f4 91ec 91ed 91ee 91ef 91f0 a3e6 a3e7 a3e8 a3e9
      a3ea a3eb a3ec a3ed b7e0 b7e1 b7e2 b7e3 b7e4 b7e5 b7e6 b7e7 b7e8 cfd6 cfd7 cfd8 cfd9 cfda cfdb cfdc cfdd cfde
      cfdf cfe0 cfe1 d1fcc d1fcd d1fce d1fcf d1fd0 d1fd1 d1fd2 d1fd3 d1fd4 d1fd5 d1fd6 d1fd7 d1fd8 e3fbc`),
    words(`
      21 51a 639 777 8f5 91f1 91f2 a3ee a3ef b7e9 b7ea cfe2 cfe3 cfe4 cfe5 d1fda d1fdb d1fdc d1fdd e3fcd e3fce
      e3fcf e3fd0 e3fd1 f7fbd f7fbe f7fbf f7fc0 f7fc1 f7fc2 f7fc3 f7fc4 gffa0 gffa1 gffa2 gffa3 gffa4 gffa5 gffa6
      gffa7 gffa8 gffa9 gffaa gffab gffac gffad gffae gffaf gffb0 gffb1 gffb2 gffb3 gffb4 gffb5 gffb6 gffb7 gffb8
      gffb9 gffba gffbb gffbc gffbd gffbe gffbf`),
    words(`
      d1fd9 e3fbd e3fbe e3fbf e3fc0 e3fc1 e3fc2 e3fc3 e3fc4 e3fc5 e3fc6 e3fc7 e3fc8 e3fc9 e3fca e3fcb e3fcc f7fa4
      f7fa5 f7fa6 f7fa7 f7fa8 f7fa9 f7faa f7fab f7fac f7fad f7fae f7faf f7fb0 f7fb1 f7fb2 f7fb3 f7fb4 f7fb5 f7fb6
      f7fb7 f7fb8 f7fb9 f7fba f7fbb f7fbc gff8a gff8b gff8c gff8d gff8e gff8f gff90 gff91 gff92 gff93 gff94 gff95
      gff96 gff97 gff98 gff99 gff9a gff9b gff9c gff9d gff9e gff9f`),
    words(`
      gffc0 gffc1 gffc2 gffc3 gffc4 gffc5 gffc6 gffc7 gffc8 gffc9 gffca gffcb gffcc gffcd gffce gffcf gffd0 gffd1
      gffd2 gffd3 gffd4 gffd5 gffd6 gffd7 gffd8 gffd9 gffda gffdb gffdc gffdd gffde gffdf gffe0 gffe1 gffe2 gffe3
      gffe4 gffe5 gffe6 gffe7 gffe8 gffe9 gffea gffeb gffec gffed gffee gffef gfff0 gfff1 gfff2 gfff3 gfff4 gfff5
      gfff6 gfff7 gfff8 gfff9 gfffa gfffb gfffc gfffd gfffe gffff`)
  ],
  runs: words(`
    10 34 4a 4b 518 519 51a 51b 638 639 63a 63b 778 8f2 91e6 91e7 a3d4 91e8 a3d5 91e9 a3d6 a3d7 a3d8 a3d9 a3da a3db
    a3dc a3dd a3de a3df a3e0 a3e1 a3e2 a3e3 a3e4 a3e5 a3e6 a3e7 a3e8 a3e9 a3ea a3eb a3ec a3ed a3ee a3ef a3f0 a3f1
    a3f2 a3f3 a3f4 a3f5 a3f6 a3f7 a3f8 a3f9 a3fa a3fb a3fc a3fd a3fe a3ff`)
}

/** Of frames of 10 bits and 720 lines. */
const TEN_SMALL: Vc3Book = {
  first: words(`
    4a 63e 4b 4c 4d 30 31 32 33 34 4e 51e 77e 77f`),
  end: '4b',
  sizes: [
    words(`
      20 34 4a 518 519 636 637 638 774 775 776 8f0 8f1 8f2 8f3 8f4 91ec 91ed 91ee 91ef 91f0 91f1 a3e6 a3e7 a3e8
      a3e9 a3ea a3eb a3ec b7de b7df b7e0 b7e1 b7e2 b7e3 b7e4 b7e5 b7e6 b7e7 cfd4 cfd5 cfd6 cfd7 cfd8 cfd9 cfda cfdb
      cfdc cfdd cfde cfdf cfe0 d1fc8 d1fc9 d1fca d1fcb d1fcc d1fcd d1fce d1fcf d1fd0 d1fd1 d1fd2 d1fd3`),
    words(`
      21 51a 639 777 8f5 91f2 a3ed a3ee b7e8 b7e9 cfe1 cfe2 cfe3 d1fd9 d1fda d1fdb d1fdc e3fcf e3fd0 e3fd1 e3fd2
      f7fc3 f7fc4 f7fc5 f7fc6 f7fc7 f7fc8 gff9b gff9c gff9d gff9e gff9f gffa0 gffa1 gffa2 gffa3 gffa4 gffa5 gffa6
      gffa7 gffa8 gffa9 gffaa gffab gffac gffad gffae gffaf gffb0 gffb1 gffb2 gffb3 gffb4 gffb5 gffb6 gffb7 gffb8
      gffb9 gffba gffbb gffbc gffbd gffbe gffbf`),
    words(`
      d1fd4 d1fd5 d1fd6 d1fd7 d1fd8 e3fba e3fbb e3fbc e3fbd e3fbe e3fbf e3fc0 e3fc1 e3fc2 e3fc3 e3fc4 e3fc5 e3fc6
      e3fc7 e3fc8 e3fc9 e3fca e3fcb e3fcc e3fcd e3fce f7fa6 f7fa7 f7fa8 f7fa9 f7faa f7fab f7fac f7fad f7fae f7faf
      f7fb0 f7fb1 f7fb2 f7fb3 f7fb4 f7fb5 f7fb6 f7fb7 f7fb8 f7fb9 f7fba f7fbb f7fbc f7fbd f7fbe f7fbf f7fc0 gff92
      f7fc1 f7fc2 gff93 gff94 gff95 gff96 gff97 gff98 gff99 gff9a`),
    words(`
      gffc0 gffc1 gffc2 gffc3 gffc4 gffc5 gffc6 gffc7 gffc8 gffc9 gffca gffcb gffcc gffcd gffce gffcf gffd0 gffd1
      gffd2 gffd3 gffd4 gffd5 gffd6 gffd7 gffd8 gffd9 gffda gffdb gffdc gffdd gffde gffdf gffe0 gffe1 gffe2 gffe3
      gffe4 gffe5 gffe6 gffe7 gffe8 gffe9 gffea gffeb gffec gffed gffee gffef gfff0 gfff1 gfff2 gfff3 gfff4 gfff5
      gfff6 gfff7 gfff8 gfff9 gfffa gfffb gfffc gfffd gfffe gffff`)
  ],
  runs: words(`
    10 34 35 4c 51a 51b 51c 63a 776 777 778 8f2 91e6 91e7 a3d0 a3d1 a3d2 a3d3 a3d4 a3d5 a3d6 a3d7 a3d8 a3d9 a3da
    a3db a3dc a3dd a3de a3df a3e0 a3e1 a3e2 a3e3 a3e4 a3e5 a3e6 a3e7 a3e8 a3e9 a3ea a3eb a3ec a3ed a3ee a3ef a3f0
    a3f1 a3f2 a3f3 a3f4 a3f5 a3f6 a3f7 a3f8 a3f9 a3fa a3fb a3fc a3fd a3fe a3ff`)
}

/** Of frames of 8 bits at high rates. */
const HIGH: Vc3Book = {
  first: words(`
    30 4c 4d 31 32 33 34 35 4e 51e 63e 63f`),
  end: '4b',
  sizes: [
    words(`
      20 34 4a 518 519 636 637 638 774 775 776 8f0 8f1 8f2 8f3 8f4 91ec 91ed 91ee 91ef 91f0 91f1 a3e8 a3e9 a3ea
      a3eb a3ec a3ed a3ee b7e2 b7e3 b7e4 b7e5 b7e6 b7e7 b7e8 b7e9 cfd8 cfd9 cfda cfdb cfdc cfdd cfde cfdf cfe0 cfe1
      cfe2 d1fcc d1fcd d1fce d1fcf d1fd0 d1fd1 d1fd2 d1fd3 d1fd4 d1fd5 d1fd6 d1fd7 d1fd8 e3fba e3fbb e3fbc`),
    words(`
      21 51a 639 777 8f5 91f2 91f3 a3ef a3f0 b7ea b7eb cfe3 cfe4 cfe5 d1fd9 d1fda d1fdb d1fdc e3fcd e3fce e3fcf
      e3fd0 e3fd1 e3fd2 f7fbc f7fbd f7fbe f7fbf f7fc0 f7fc1 gff9e gff9f gffa0 gffa1 gffa2 gffa3 gffa4 gffa5 gffa6
      gffa7 gffa8 gffa9 gffaa gffab gffac gffad gffae gffaf gffb0 gffb1 gffb2 gffb3 gffb4 gffb5 gffb6 gffb7 gffb8
      gffb9 gffba gffbb gffbc gffbd gffbe gffbf`),
    words(`
      e3fbd e3fbe e3fbf e3fc0 e3fc1 e3fc2 e3fc3 e3fc4 e3fc5 e3fc6 e3fc7 e3fc8 e3fc9 e3fca e3fcb e3fcc f7fa6 f7fa7
      f7fa8 f7fa9 f7faa f7fab f7fac f7fad f7fae f7faf f7fb0 f7fb1 f7fb2 f7fb3 f7fb4 f7fb5 f7fb6 f7fb7 f7fb8 f7fb9
      f7fba gff84 f7fbb gff85 gff86 gff87 gff88 gff89 gff8a gff8b gff8c gff8d gff8e gff8f gff90 gff91 gff92 gff93
      gff94 gff95 gff96 gff97 gff98 gff99 gff9a gff9b gff9c gff9d`),
    words(`
      gffc0 gffc1 gffc2 gffc3 gffc4 gffc5 gffc6 gffc7 gffc8 gffc9 gffca gffcb gffcc gffcd gffce gffcf gffd0 gffd1
      gffd2 gffd3 gffd4 gffd5 gffd6 gffd7 gffd8 gffd9 gffda gffdb gffdc gffdd gffde gffdf gffe0 gffe1 gffe2 gffe3
      gffe4 gffe5 gffe6 gffe7 gffe8 gffe9 gffea gffeb gffec gffed gffee gffef gfff0 gfff1 gfff2 gfff3 gfff4 gfff5
      gfff6 gfff7 gfff8 gfff9 gfffa gfffb gfffc gfffd gfffe gffff`)
  ],
  runs: words(`
    10 34 4a 4b 518 519 51a 51b 638 639 63a 63b 778 8f2 91e6 91e7 a3d4 a3d5 a3d6 91e8 91e9 a3d7 a3d8 a3d9 a3da a3db
    a3dc a3dd a3de a3df a3e0 a3e1 a3e2 a3e3 a3e4 a3e5 a3e6 a3e7 a3e8 a3e9 a3ea a3eb a3ec a3ed a3ee a3ef a3f0 a3f1
    a3f2 a3f3 a3f4 a3f5 a3f6 a3f7 a3f8 a3f9 a3fa a3fb a3fc a3fd a3fe a3ff`)
}

/** Of those of 720 lines. */
const HIGH_SMALL: Vc3Book = {
  first: words(`
    30 4c 4d 31 32 33 34 35 4e 51e 63e 63f`),
  end: '4b',
  sizes: [
    words(`
      20 34 4a 518 519 636 637 638 774 775 776 8f0 8f1 8f2 8f3 8f4 91ec 91ed 91ee 91ef 91f0 a3e4 a3e5 a3e6 a3e7
      a3e8 a3e9 a3ea a3eb b7dc b7dd b7de b7df b7e0 b7e1 b7e2 b7e3 b7e4 b7e5 b7e6 cfd4 cfd5 cfd6 cfd7 cfd8 cfd9 cfda
      cfdb cfdc cfdd cfde cfdf d1fc6 d1fc7 d1fc8 d1fc9 d1fca d1fcb d1fcc d1fcd d1fce d1fcf d1fd0 d1fd1`),
    words(`
      21 51a 639 777 8f5 91f1 a3ec a3ed b7e7 b7e8 b7e9 cfe0 cfe1 cfe2 d1fda d1fdb d1fdc e3fcf e3fd0 e3fd1 e3fd2
      e3fd3 f7fc5 f7fc6 f7fc7 f7fc8 f7fc9 f7fca gff9c gff9d gff9e gff9f gffa0 gffa1 gffa2 gffa3 gffa4 gffa5 gffa6
      gffa7 gffa8 gffa9 gffaa gffab gffac gffad gffae gffaf gffb0 gffb1 gffb2 gffb3 gffb4 gffb5 gffb6 gffb7 gffb8
      gffb9 gffba gffbb gffbc gffbd gffbe gffbf`),
    words(`
      d1fd2 d1fd3 d1fd4 d1fd5 d1fd6 d1fd7 d1fd8 d1fd9 e3fba e3fbb e3fbc e3fbd e3fbe e3fbf e3fc0 e3fc1 e3fc2 e3fc3
      e3fc4 e3fc5 e3fc6 e3fc7 e3fc8 e3fc9 e3fca e3fcb e3fcc e3fcd e3fce f7fa8 f7fa9 f7faa f7fab f7fac f7fad f7fae
      f7faf f7fb0 f7fb1 f7fb2 f7fb3 f7fb4 f7fb5 f7fb6 f7fb7 f7fb8 f7fb9 f7fba f7fbb f7fbc f7fbd f7fbe f7fbf f7fc0
      f7fc1 f7fc2 f7fc3 f7fc4 gff96 gff97 gff98 gff99 gff9a gff9b`),
    words(`
      gffc0 gffc1 gffc2 gffc3 gffc4 gffc5 gffc6 gffc7 gffc8 gffc9 gffca gffcb gffcc gffcd gffce gffcf gffd0 gffd1
      gffd2 gffd3 gffd4 gffd5 gffd6 gffd7 gffd8 gffd9 gffda gffdb gffdc gffdd gffde gffdf gffe0 gffe1 gffe2 gffe3
      gffe4 gffe5 gffe6 gffe7 gffe8 gffe9 gffea gffeb gffec gffed gffee gffef gfff0 gfff1 gfff2 gfff3 gfff4 gfff5
      gfff6 gfff7 gfff8 gfff9 gfffa gfffb gfffc gfffd gfffe gffff`)
  ],
  runs: words(`
    10 34 35 4c 51a 51b 51c 63a 776 777 778 8f2 91e6 91e7 a3d0 a3d1 a3d2 a3d3 a3d4 a3d5 a3d6 a3d7 a3d8 a3d9 a3da
    a3db a3dc a3dd a3de a3df a3e0 a3e1 a3e2 a3e3 a3e4 a3e5 a3e6 a3e7 a3e8 a3e9 a3ea a3eb a3ec a3ed a3ee a3ef a3f0
    a3f1 a3f2 a3f3 a3f4 a3f5 a3f6 a3f7 a3f8 a3f9 a3fa a3fb a3fc a3fd a3fe a3ff`)
}

/** Of frames of 8 bits at lower rates. */
const STANDARD: Vc3Book = {
  first: words(`
    30 4c 4d 31 32 33 34 35 4e 51e 63e 63f`),
  end: '35',
  sizes: [
    words(`
      20 34 4c 51a 638 639 63a 778 779 8f4 8f5 8f6 91f2 91f3 91f4 91f5 a3ee a3ef a3f0 a3f1 a3f2 b7e8 b7e9 b7ea b7eb
      b7ec b7ed cfe0 cfe1 cfe2 cfe3 cfe4 cfe5 cfe6 d1fd4 d1fd5 d1fd6 d1fd7 d1fd8 d1fd9 d1fda e3fbe e3fbf e3fc0
      e3fc1 e3fc2 e3fc3 e3fc4 e3fc5 e3fc6 e3fc7 e3fc8 f7f9c f7f9d f7f9e f7f9f f7fa0 f7fa1 f7fa2 f7fa3 f7fa4 gff5a
      gff5b f7fa5`),
    words(`
      21 51b 63b 8f7 8f8 91f6 a3f3 b7ee b7ef cfe7 cfe8 cfe9 d1fdb d1fdc d1fdd d1fde e3fc9 e3fca e3fcb e3fcc e3fcd
      f7fa7 f7fa8 f7fa9 f7faa f7fab f7fac gff9b gff9c gff9d gff9e gff9f gffa0 gffa1 gffa2 gffa3 gffa4 gffa5 gffa6
      gffa7 gffa8 gffa9 gffaa gffab gffac gffad gffae gffaf gffb0 gffb1 gffb2 gffb3 gffb4 gffb5 gffb6 gffb7 gffb8
      gffb9 gffba gffbb gffbc gffbd gffbe gffbf`),
    words(`
      f7fa6 gff5c gff5d gff5e gff5f gff60 gff61 gff62 gff63 gff64 gff65 gff66 gff67 gff68 gff69 gff6a gff6b gff6c
      gff6d gff6e gff6f gff70 gff71 gff72 gff73 gff74 gff75 gff76 gff77 gff78 gff79 gff7a gff7b gff7c gff7d gff7e
      gff7f gff80 gff81 gff82 gff83 gff84 gff85 gff86 gff87 gff88 gff89 gff8a gff8b gff8c gff8d gff8e gff8f gff90
      gff91 gff92 gff93 gff94 gff95 gff96 gff97 gff98 gff99 gff9a`),
    words(`
      gffc0 gffc1 gffc2 gffc3 gffc4 gffc5 gffc6 gffc7 gffc8 gffc9 gffca gffcb gffcc gffcd gffce gffcf gffd0 gffd1
      gffd2 gffd3 gffd4 gffd5 gffd6 gffd7 gffd8 gffd9 gffda gffdb gffdc gffdd gffde gffdf gffe0 gffe1 gffe2 gffe3
      gffe4 gffe5 gffe6 gffe7 gffe8 gffe9 gffea gffeb gffec gffed gffee gffef gfff0 gfff1 gfff2 gfff3 gfff4 gfff5
      gfff6 gfff7 gfff8 gfff9 gfffa gfffb gfffc gfffd gfffe gffff`)
  ],
  runs: words(`
    10 34 4a 4b 518 519 51a 636 637 638 639 63a 776 777 8f0 91e2 91e3 91e4 91e5 91e6 91e7 a3de a3df a3e0 a3e1 a3e2
    a3e3 a3e4 a3e5 a3e6 a3e7 a3e8 a3e9 a3ea a3eb a3ec a3ed a3ee a3ef a3f0 a3f1 a3f2 a3f3 a3f4 a3f5 a3f6 a3f7 a3f8
    a3f9 a3fa a3fb a3fc 91e8 a3fd a3fe a3ff 91e9 91ea 91eb 91ec 91ed 91ee`)
}

/** Of those of 720 lines. */
const STANDARD_SMALL: Vc3Book = {
  first: words(`
    30 4c 4d 31 32 33 34 35 4e 51e 63e 63f`),
  end: '4c',
  sizes: [
    words(`
      20 34 4a 51a 51b 638 639 776 777 778 8f2 8f3 8f4 8f5 91f0 91f1 91f2 91f3 a3ea a3eb a3ec a3ed a3ee a3ef b7e4
      b7e5 b7e6 b7e7 b7e8 b7e9 b7ea b7eb cfdc cfdd cfde cfdf cfe0 cfe1 cfe2 cfe3 cfe4 d1fd0 d1fd1 d1fd2 d1fd3 d1fd4
      d1fd5 d1fd6 d1fd7 d1fd8 d1fd9 d1fda d1fdb e3fbe e3fbf e3fc0 e3fc1 e3fc2 e3fc3 e3fc4 e3fc5 e3fc6 e3fc7 e3fc8`),
    words(`
      21 4b 63a 8f6 8f7 91f4 a3f0 a3f1 b7ec b7ed cfe5 cfe6 cfe7 d1fdc d1fdd d1fde e3fcc e3fcd e3fce e3fcf f7fb2
      f7fb3 f7fb4 f7fb5 f7fb6 gff99 gff9a gff9b gff9c gff9d gff9e gff9f gffa0 gffa1 gffa2 gffa3 gffa4 gffa5 gffa6
      gffa7 gffa8 gffa9 gffaa gffab gffac gffad gffae gffaf gffb0 gffb1 gffb2 gffb3 gffb4 gffb5 gffb6 gffb7 gffb8
      gffb9 gffba gffbb gffbc gffbd gffbe gffbf`),
    words(`
      e3fc9 e3fca e3fcb f7fa0 f7fa1 f7fa2 f7fa3 f7fa4 f7fa5 f7fa6 f7fa7 f7fa8 f7fa9 f7faa f7fab f7fac f7fad f7fae
      f7faf f7fb0 f7fb1 gff6e gff6f gff70 gff71 gff72 gff73 gff74 gff75 gff76 gff77 gff78 gff79 gff7a gff7b gff7c
      gff7d gff7e gff7f gff80 gff81 gff82 gff83 gff84 gff85 gff86 gff87 gff88 gff89 gff8a gff8b gff8c gff8d gff8e
      gff8f gff90 gff91 gff92 gff93 gff94 gff95 gff96 gff97 gff98`),
    words(`
      gffc0 gffc1 gffc2 gffc3 gffc4 gffc5 gffc6 gffc7 gffc8 gffc9 gffca gffcb gffcc gffcd gffce gffcf gffd0 gffd1
      gffd2 gffd3 gffd4 gffd5 gffd6 gffd7 gffd8 gffd9 gffda gffdb gffdc gffdd gffde gffdf gffe0 gffe1 gffe2 gffe3
      gffe4 gffe5 gffe6 gffe7 gffe8 gffe9 gffea gffeb gffec gffed gffee gffef gfff0 gfff1 gfff2 gfff3 gfff4 gfff5
      gfff6 gfff7 gfff8 gfff9 gfffa gfffb gfffc gfffd gfffe gffff`)
  ],
  runs: words(`
    10 34 35 4c 51a 51b 51c 63a 776 777 778 8f2 91e6 91e7 a3d0 a3d1 a3d2 a3d3 a3d4 a3d5 a3d6 a3d7 a3d8 a3d9 a3da
    a3db a3dc a3dd a3de a3df a3e0 a3e1 a3e2 a3e3 a3e4 a3e5 a3e6 a3e7 a3e8 a3e9 a3ea a3eb a3ec a3ed a3ee a3ef a3f0
    a3f1 a3f2 a3f3 a3f4 a3f5 a3f6 a3f7 a3f8 a3f9 a3fa a3fb a3fc a3fd a3fe a3ff`)
}

/** The books by the kinds of frames that use them. */
export const BOOKS = {
  ten: TEN,
  'ten-small': TEN_SMALL,
  high: HIGH,
  'high-small': HIGH_SMALL,
  standard: STANDARD,
  'standard-small': STANDARD_SMALL
} as const
