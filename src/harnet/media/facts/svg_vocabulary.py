"""The elements and attributes of SVG that draw and do nothing else (SVG 2, from memory)."""

_DRAWING = """
    svg g defs symbol use switch title desc metadata style view a
    path rect circle ellipse line polyline polygon text tspan textPath image
    linearGradient radialGradient stop pattern clipPath mask marker filter
    feBlend feColorMatrix feComponentTransfer feComposite feConvolveMatrix feDiffuseLighting
    feDisplacementMap feDistantLight feDropShadow feFlood feFuncA feFuncB feFuncG feFuncR
    feGaussianBlur feImage feMerge feMergeNode feMorphology feOffset fePointLight
    feSpecularLighting feSpotLight feTile feTurbulence
    font font-face font-face-src font-face-name glyph missing-glyph hkern vkern tref altGlyph
    color-profile cursor solidcolor hatch hatchpath mesh meshgradient meshpatch meshrow
"""
ELEMENTS = frozenset(_DRAWING.split())
"""No script, no animation, nothing of another vocabulary."""

_OF_ELEMENTS = """
    id class style lang tabindex role type media version baseProfile viewBox width height x y
    preserveAspectRatio zoomAndPan transform gradientTransform patternTransform
    externalResourcesRequired requiredExtensions requiredFeatures systemLanguage
    contentStyleType contentScriptType
    d pathLength cx cy r rx ry x1 y1 x2 y2 points fx fy fr dx dy rotate textLength lengthAdjust
    startOffset method spacing side path offset spreadMethod gradientUnits patternUnits
    patternContentUnits clipPathUnits maskUnits maskContentUnits markerUnits markerWidth
    markerHeight orient refX refY filterUnits primitiveUnits filterRes result in in2 mode
    values tableValues slope intercept amplitude exponent operator k1 k2 k3 k4 order
    kernelMatrix divisor bias targetX targetY edgeMode kernelUnitLength preserveAlpha
    surfaceScale diffuseConstant specularConstant specularExponent limitingConeAngle
    azimuth elevation z pointsAtX pointsAtY pointsAtZ scale xChannelSelector yChannelSelector
    stdDeviation radius baseFrequency numOctaves seed stitchTiles title target download rel
    hreflang ping referrerpolicy crossorigin decoding nonce autofocus slot name local
    rendering-intent horiz-adv-x horiz-origin-x horiz-origin-y vert-adv-y vert-origin-x
    vert-origin-y units-per-em panose-1 stemv stemh slope cap-height x-height accent-height
    ascent descent widths bbox ideographic alphabetic mathematical hanging v-ideographic
    v-alphabetic v-mathematical v-hanging underline-position underline-thickness
    strikethrough-position strikethrough-thickness overline-position overline-thickness
    unicode-range unicode glyph-name orientation arabic-form g1 g2 u1 u2 k string format
    glyphRef space about property typeof resource content datatype datetime focusable
"""
_OF_STYLE = """
    alignment-baseline baseline-shift clip clip-path clip-rule color color-interpolation
    color-interpolation-filters color-profile color-rendering cursor direction display
    dominant-baseline enable-background fill fill-opacity fill-rule filter flood-color
    flood-opacity font font-family font-feature-settings font-kerning font-size
    font-size-adjust font-stretch font-style font-synthesis font-variant
    font-variant-alternates font-variant-caps font-variant-east-asian font-variant-ligatures
    font-variant-numeric font-variant-position font-variation-settings font-weight
    glyph-orientation-horizontal glyph-orientation-vertical hyphens image-rendering
    inline-size isolation kerning letter-spacing lighting-color line-height marker marker-end
    marker-mid marker-start mask mask-type mix-blend-mode opacity overflow paint-order
    pointer-events shape-inside shape-margin shape-padding shape-rendering shape-subtract
    solid-color solid-opacity stop-color stop-opacity stroke stroke-dasharray
    stroke-dashoffset stroke-linecap stroke-linejoin stroke-miterlimit stroke-opacity
    stroke-width tab-size text-align text-align-last text-anchor text-decoration
    text-decoration-color text-decoration-line text-decoration-style text-indent
    text-orientation text-overflow text-rendering text-transform transform-box
    transform-origin unicode-bidi vector-effect visibility white-space word-spacing
    writing-mode text-decoration-thickness background background-color font-variant-emoji
"""
ATTRIBUTES = frozenset(f"{_OF_ELEMENTS} {_OF_STYLE}".split())
