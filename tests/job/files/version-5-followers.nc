(Followers - Sheet 1)
(machine: Plasma table)
(material: plywood, 3 mm, sheet 600 x 400 mm)
(zero: lower left, height from the top)
(work: 19.50 19.50 to 240.50 130.50 mm)
(time: 1.8 min)
(units: mm)
G21 G90 G17
G0 X50.025 Y33.4
(1 Engrave: contour-3 contour-14)
M3
G1 X50.086 Y33.4 F6000
M5
G0 X50.257 Y33.6
(2 Engrave: contour-3 contour-14)
M3
G1 X50.075 Y33.6
M5
G0 X50.125 Y33.8
(3 Engrave: contour-3 contour-14)
M3
G1 X50.429 Y33.8
M5
G0 X50.6 Y34
(4 Engrave: contour-3 contour-14)
M3
G1 X50.175 Y34
M5
G0 X50.225 Y34.2
(5 Engrave: contour-3 contour-14)
M3
G1 X50.771 Y34.2
M5
G0 X50.943 Y34.4
(6 Engrave: contour-3 contour-14)
M3
G1 X50.275 Y34.4
M5
G0 X50.325 Y34.6
(7 Engrave: contour-3 contour-14)
M3
G1 X51.114 Y34.6
M5
G0 X51.286 Y34.8
(8 Engrave: contour-3 contour-14)
M3
G1 X50.375 Y34.8
M5
G0 X50.425 Y35
(9 Engrave: contour-3 contour-14)
M3
G1 X51.457 Y35
M5
G0 X51.629 Y35.2
(10 Engrave: contour-3 contour-14)
M3
G1 X50.475 Y35.2
M5
G0 X50.525 Y35.4
(11 Engrave: contour-3 contour-14)
M3
G1 X51.8 Y35.4
M5
G0 X51.971 Y35.6
(12 Engrave: contour-3 contour-14)
M3
G1 X50.575 Y35.6
M5
G0 X50.625 Y35.8
(13 Engrave: contour-3 contour-14)
M3
G1 X52.143 Y35.8
M5
G0 X52.314 Y36
(14 Engrave: contour-3 contour-14)
M3
G1 X50.675 Y36
M5
G0 X50.725 Y36.2
(15 Engrave: contour-3 contour-14)
M3
G1 X52.486 Y36.2
M5
G0 X52.657 Y36.4
(16 Engrave: contour-3 contour-14)
M3
G1 X50.775 Y36.4
M5
G0 X50.825 Y36.6
(17 Engrave: contour-3 contour-14)
M3
G1 X52.829 Y36.6
M5
G0 X53 Y36.8
(18 Engrave: contour-3 contour-14)
M3
G1 X50.875 Y36.8
M5
G0 X50.925 Y37
(19 Engrave: contour-3 contour-14)
M3
G1 X53.171 Y37
M5
G0 X53.343 Y37.2
(20 Engrave: contour-3 contour-14)
M3
G1 X50.975 Y37.2
M5
G0 X51.025 Y37.4
(21 Engrave: contour-3 contour-14)
M3
G1 X53.514 Y37.4
M5
G0 X53.686 Y37.6
(22 Engrave: contour-3 contour-14)
M3
G1 X51.075 Y37.6
M5
G0 X51.125 Y37.8
(23 Engrave: contour-3 contour-14)
M3
G1 X53.857 Y37.8
M5
G0 X54.029 Y38
(24 Engrave: contour-3 contour-14)
M3
G1 X51.175 Y38
M5
G0 X51.225 Y38.2
(25 Engrave: contour-3 contour-14)
M3
G1 X54.2 Y38.2
M5
G0 X54.371 Y38.4
(26 Engrave: contour-3 contour-14)
M3
G1 X51.275 Y38.4
M5
G0 X51.325 Y38.6
(27 Engrave: contour-3 contour-14)
M3
G1 X54.543 Y38.6
M5
G0 X54.714 Y38.8
(28 Engrave: contour-3 contour-14)
M3
G1 X51.375 Y38.8
M5
G0 X51.425 Y39
(29 Engrave: contour-3 contour-14)
M3
G1 X54.886 Y39
M5
G0 X55.057 Y39.2
(30 Engrave: contour-3 contour-14)
M3
G1 X51.475 Y39.2
M5
G0 X51.525 Y39.4
(31 Engrave: contour-3 contour-14)
M3
G1 X55.229 Y39.4
M5
G0 X55.4 Y39.6
(32 Engrave: contour-3 contour-14)
M3
G1 X51.575 Y39.6
M5
G0 X51.625 Y39.8
(33 Engrave: contour-3 contour-14)
M3
G1 X55.571 Y39.8
M5
G0 X55.743 Y40
(34 Engrave: contour-3 contour-14)
M3
G1 X51.675 Y40
M5
G0 X51.725 Y40.2
(35 Engrave: contour-3 contour-14)
M3
G1 X55.914 Y40.2
M5
G0 X56.086 Y40.4
(36 Engrave: contour-3 contour-14)
M3
G1 X51.775 Y40.4
M5
G0 X51.825 Y40.6
(37 Engrave: contour-3 contour-14)
M3
G1 X56.257 Y40.6
M5
G0 X56.429 Y40.8
(38 Engrave: contour-3 contour-14)
M3
G1 X51.875 Y40.8
M5
G0 X51.925 Y41
(39 Engrave: contour-3 contour-14)
M3
G1 X56.6 Y41
M5
G0 X56.771 Y41.2
(40 Engrave: contour-3 contour-14)
M3
G1 X51.975 Y41.2
M5
G0 X52.025 Y41.4
(41 Engrave: contour-3 contour-14)
M3
G1 X56.943 Y41.4
M5
G0 X57.114 Y41.6
(42 Engrave: contour-3 contour-14)
M3
G1 X52.075 Y41.6
M5
G0 X52.125 Y41.8
(43 Engrave: contour-3 contour-14)
M3
G1 X57.286 Y41.8
M5
G0 X57.457 Y42
(44 Engrave: contour-3 contour-14)
M3
G1 X52.175 Y42
M5
G0 X52.225 Y42.2
(45 Engrave: contour-3 contour-14)
M3
G1 X57.629 Y42.2
M5
G0 X57.8 Y42.4
(46 Engrave: contour-3 contour-14)
M3
G1 X52.275 Y42.4
M5
G0 X52.325 Y42.6
(47 Engrave: contour-3 contour-14)
M3
G1 X57.971 Y42.6
M5
G0 X58.143 Y42.8
(48 Engrave: contour-3 contour-14)
M3
G1 X52.375 Y42.8
M5
G0 X52.425 Y43
(49 Engrave: contour-3 contour-14)
M3
G1 X58.314 Y43
M5
G0 X58.486 Y43.2
(50 Engrave: contour-3 contour-14)
M3
G1 X52.475 Y43.2
M5
G0 X52.525 Y43.4
(51 Engrave: contour-3 contour-14)
M3
G1 X58.657 Y43.4
M5
G0 X58.829 Y43.6
(52 Engrave: contour-3 contour-14)
M3
G1 X52.575 Y43.6
M5
G0 X52.625 Y43.8
(53 Engrave: contour-3 contour-14)
M3
G1 X59 Y43.8
M5
G0 X59.171 Y44
(54 Engrave: contour-3 contour-14)
M3
G1 X52.675 Y44
M5
G0 X52.725 Y44.2
(55 Engrave: contour-3 contour-14)
M3
G1 X59.343 Y44.2
M5
G0 X59.514 Y44.4
(56 Engrave: contour-3 contour-14)
M3
G1 X52.775 Y44.4
M5
G0 X52.825 Y44.6
(57 Engrave: contour-3 contour-14)
M3
G1 X59.686 Y44.6
M5
G0 X59.857 Y44.8
(58 Engrave: contour-3 contour-14)
M3
G1 X52.875 Y44.8
M5
G0 X52.925 Y45
(59 Engrave: contour-3 contour-14)
M3
G1 X60.029 Y45
M5
G0 X60.2 Y45.2
(60 Engrave: contour-3 contour-14)
M3
G1 X52.975 Y45.2
M5
G0 X53.025 Y45.4
(61 Engrave: contour-3 contour-14)
M3
G1 X60.371 Y45.4
M5
G0 X60.543 Y45.6
(62 Engrave: contour-3 contour-14)
M3
G1 X53.075 Y45.6
M5
G0 X53.125 Y45.8
(63 Engrave: contour-3 contour-14)
M3
G1 X60.714 Y45.8
M5
G0 X60.886 Y46
(64 Engrave: contour-3 contour-14)
M3
G1 X53.175 Y46
M5
G0 X53.225 Y46.2
(65 Engrave: contour-3 contour-14)
M3
G1 X61.057 Y46.2
M5
G0 X61.229 Y46.4
(66 Engrave: contour-3 contour-14)
M3
G1 X53.275 Y46.4
M5
G0 X53.325 Y46.6
(67 Engrave: contour-3 contour-14)
M3
G1 X61.4 Y46.6
M5
G0 X61.571 Y46.8
(68 Engrave: contour-3 contour-14)
M3
G1 X53.375 Y46.8
M5
G0 X53.425 Y47
(69 Engrave: contour-3 contour-14)
M3
G1 X61.743 Y47
M5
G0 X61.914 Y47.2
(70 Engrave: contour-3 contour-14)
M3
G1 X53.475 Y47.2
M5
G0 X53.525 Y47.4
(71 Engrave: contour-3 contour-14)
M3
G1 X61.883 Y47.4
M5
G0 X61.65 Y47.6
(72 Engrave: contour-3 contour-14)
M3
G1 X53.575 Y47.6
M5
G0 X53.625 Y47.8
(73 Engrave: contour-3 contour-14)
M3
G1 X61.417 Y47.8
M5
G0 X61.183 Y48
(74 Engrave: contour-3 contour-14)
M3
G1 X53.675 Y48
M5
G0 X53.725 Y48.2
(75 Engrave: contour-3 contour-14)
M3
G1 X60.95 Y48.2
M5
G0 X60.717 Y48.4
(76 Engrave: contour-3 contour-14)
M3
G1 X53.775 Y48.4
M5
G0 X53.825 Y48.6
(77 Engrave: contour-3 contour-14)
M3
G1 X60.483 Y48.6
M5
G0 X60.25 Y48.8
(78 Engrave: contour-3 contour-14)
M3
G1 X53.875 Y48.8
M5
G0 X53.925 Y49
(79 Engrave: contour-3 contour-14)
M3
G1 X60.017 Y49
M5
G0 X59.783 Y49.2
(80 Engrave: contour-3 contour-14)
M3
G1 X53.975 Y49.2
M5
G0 X54.025 Y49.4
(81 Engrave: contour-3 contour-14)
M3
G1 X59.55 Y49.4
M5
G0 X59.317 Y49.6
(82 Engrave: contour-3 contour-14)
M3
G1 X54.075 Y49.6
M5
G0 X54.125 Y49.8
(83 Engrave: contour-3 contour-14)
M3
G1 X59.083 Y49.8
M5
G0 X58.85 Y50
(84 Engrave: contour-3 contour-14)
M3
G1 X54.175 Y50
M5
G0 X54.225 Y50.2
(85 Engrave: contour-3 contour-14)
M3
G1 X58.617 Y50.2
M5
G0 X58.383 Y50.4
(86 Engrave: contour-3 contour-14)
M3
G1 X54.275 Y50.4
M5
G0 X54.325 Y50.6
(87 Engrave: contour-3 contour-14)
M3
G1 X58.15 Y50.6
M5
G0 X57.917 Y50.8
(88 Engrave: contour-3 contour-14)
M3
G1 X54.375 Y50.8
M5
G0 X54.425 Y51
(89 Engrave: contour-3 contour-14)
M3
G1 X57.683 Y51
M5
G0 X57.45 Y51.2
(90 Engrave: contour-3 contour-14)
M3
G1 X54.475 Y51.2
M5
G0 X54.525 Y51.4
(91 Engrave: contour-3 contour-14)
M3
G1 X57.217 Y51.4
M5
G0 X56.983 Y51.6
(92 Engrave: contour-3 contour-14)
M3
G1 X54.575 Y51.6
M5
G0 X54.625 Y51.8
(93 Engrave: contour-3 contour-14)
M3
G1 X56.75 Y51.8
M5
G0 X56.517 Y52
(94 Engrave: contour-3 contour-14)
M3
G1 X54.675 Y52
M5
G0 X54.725 Y52.2
(95 Engrave: contour-3 contour-14)
M3
G1 X56.283 Y52.2
M5
G0 X56.05 Y52.4
(96 Engrave: contour-3 contour-14)
M3
G1 X54.775 Y52.4
M5
G0 X54.825 Y52.6
(97 Engrave: contour-3 contour-14)
M3
G1 X55.817 Y52.6
M5
G0 X55.583 Y52.8
(98 Engrave: contour-3 contour-14)
M3
G1 X54.875 Y52.8
M5
G0 X54.925 Y53
(99 Engrave: contour-3 contour-14)
M3
G1 X55.35 Y53
M5
G0 X55.117 Y53.2
(100 Engrave: contour-3 contour-14)
M3
G1 X54.975 Y53.2
M5
G0 X209.914 Y33.4
(101 Engrave: contour-3 contour-14)
M3
G1 X209.975 Y33.4
M5
G0 X209.925 Y33.6
(102 Engrave: contour-3 contour-14)
M3
G1 X209.743 Y33.6
M5
G0 X209.571 Y33.8
(103 Engrave: contour-3 contour-14)
M3
G1 X209.875 Y33.8
M5
G0 X209.825 Y34
(104 Engrave: contour-3 contour-14)
M3
G1 X209.4 Y34
M5
G0 X209.229 Y34.2
(105 Engrave: contour-3 contour-14)
M3
G1 X209.775 Y34.2
M5
G0 X209.725 Y34.4
(106 Engrave: contour-3 contour-14)
M3
G1 X209.057 Y34.4
M5
G0 X208.886 Y34.6
(107 Engrave: contour-3 contour-14)
M3
G1 X209.675 Y34.6
M5
G0 X209.625 Y34.8
(108 Engrave: contour-3 contour-14)
M3
G1 X208.714 Y34.8
M5
G0 X208.543 Y35
(109 Engrave: contour-3 contour-14)
M3
G1 X209.575 Y35
M5
G0 X209.525 Y35.2
(110 Engrave: contour-3 contour-14)
M3
G1 X208.371 Y35.2
M5
G0 X208.2 Y35.4
(111 Engrave: contour-3 contour-14)
M3
G1 X209.475 Y35.4
M5
G0 X209.425 Y35.6
(112 Engrave: contour-3 contour-14)
M3
G1 X208.029 Y35.6
M5
G0 X207.857 Y35.8
(113 Engrave: contour-3 contour-14)
M3
G1 X209.375 Y35.8
M5
G0 X209.325 Y36
(114 Engrave: contour-3 contour-14)
M3
G1 X207.686 Y36
M5
G0 X207.514 Y36.2
(115 Engrave: contour-3 contour-14)
M3
G1 X209.275 Y36.2
M5
G0 X209.225 Y36.4
(116 Engrave: contour-3 contour-14)
M3
G1 X207.343 Y36.4
M5
G0 X207.171 Y36.6
(117 Engrave: contour-3 contour-14)
M3
G1 X209.175 Y36.6
M5
G0 X209.125 Y36.8
(118 Engrave: contour-3 contour-14)
M3
G1 X207 Y36.8
M5
G0 X206.829 Y37
(119 Engrave: contour-3 contour-14)
M3
G1 X209.075 Y37
M5
G0 X209.025 Y37.2
(120 Engrave: contour-3 contour-14)
M3
G1 X206.657 Y37.2
M5
G0 X206.486 Y37.4
(121 Engrave: contour-3 contour-14)
M3
G1 X208.975 Y37.4
M5
G0 X208.925 Y37.6
(122 Engrave: contour-3 contour-14)
M3
G1 X206.314 Y37.6
M5
G0 X206.143 Y37.8
(123 Engrave: contour-3 contour-14)
M3
G1 X208.875 Y37.8
M5
G0 X208.825 Y38
(124 Engrave: contour-3 contour-14)
M3
G1 X205.971 Y38
M5
G0 X205.8 Y38.2
(125 Engrave: contour-3 contour-14)
M3
G1 X208.775 Y38.2
M5
G0 X208.725 Y38.4
(126 Engrave: contour-3 contour-14)
M3
G1 X205.629 Y38.4
M5
G0 X205.457 Y38.6
(127 Engrave: contour-3 contour-14)
M3
G1 X208.675 Y38.6
M5
G0 X208.625 Y38.8
(128 Engrave: contour-3 contour-14)
M3
G1 X205.286 Y38.8
M5
G0 X205.114 Y39
(129 Engrave: contour-3 contour-14)
M3
G1 X208.575 Y39
M5
G0 X208.525 Y39.2
(130 Engrave: contour-3 contour-14)
M3
G1 X204.943 Y39.2
M5
G0 X204.771 Y39.4
(131 Engrave: contour-3 contour-14)
M3
G1 X208.475 Y39.4
M5
G0 X208.425 Y39.6
(132 Engrave: contour-3 contour-14)
M3
G1 X204.6 Y39.6
M5
G0 X204.429 Y39.8
(133 Engrave: contour-3 contour-14)
M3
G1 X208.375 Y39.8
M5
G0 X208.325 Y40
(134 Engrave: contour-3 contour-14)
M3
G1 X204.257 Y40
M5
G0 X204.086 Y40.2
(135 Engrave: contour-3 contour-14)
M3
G1 X208.275 Y40.2
M5
G0 X208.225 Y40.4
(136 Engrave: contour-3 contour-14)
M3
G1 X203.914 Y40.4
M5
G0 X203.743 Y40.6
(137 Engrave: contour-3 contour-14)
M3
G1 X208.175 Y40.6
M5
G0 X208.125 Y40.8
(138 Engrave: contour-3 contour-14)
M3
G1 X203.571 Y40.8
M5
G0 X203.4 Y41
(139 Engrave: contour-3 contour-14)
M3
G1 X208.075 Y41
M5
G0 X208.025 Y41.2
(140 Engrave: contour-3 contour-14)
M3
G1 X203.229 Y41.2
M5
G0 X203.057 Y41.4
(141 Engrave: contour-3 contour-14)
M3
G1 X207.975 Y41.4
M5
G0 X207.925 Y41.6
(142 Engrave: contour-3 contour-14)
M3
G1 X202.886 Y41.6
M5
G0 X202.714 Y41.8
(143 Engrave: contour-3 contour-14)
M3
G1 X207.875 Y41.8
M5
G0 X207.825 Y42
(144 Engrave: contour-3 contour-14)
M3
G1 X202.543 Y42
M5
G0 X202.371 Y42.2
(145 Engrave: contour-3 contour-14)
M3
G1 X207.775 Y42.2
M5
G0 X207.725 Y42.4
(146 Engrave: contour-3 contour-14)
M3
G1 X202.2 Y42.4
M5
G0 X202.029 Y42.6
(147 Engrave: contour-3 contour-14)
M3
G1 X207.675 Y42.6
M5
G0 X207.625 Y42.8
(148 Engrave: contour-3 contour-14)
M3
G1 X201.857 Y42.8
M5
G0 X201.686 Y43
(149 Engrave: contour-3 contour-14)
M3
G1 X207.575 Y43
M5
G0 X207.525 Y43.2
(150 Engrave: contour-3 contour-14)
M3
G1 X201.514 Y43.2
M5
G0 X201.343 Y43.4
(151 Engrave: contour-3 contour-14)
M3
G1 X207.475 Y43.4
M5
G0 X207.425 Y43.6
(152 Engrave: contour-3 contour-14)
M3
G1 X201.171 Y43.6
M5
G0 X201 Y43.8
(153 Engrave: contour-3 contour-14)
M3
G1 X207.375 Y43.8
M5
G0 X207.325 Y44
(154 Engrave: contour-3 contour-14)
M3
G1 X200.829 Y44
M5
G0 X200.657 Y44.2
(155 Engrave: contour-3 contour-14)
M3
G1 X207.275 Y44.2
M5
G0 X207.225 Y44.4
(156 Engrave: contour-3 contour-14)
M3
G1 X200.486 Y44.4
M5
G0 X200.314 Y44.6
(157 Engrave: contour-3 contour-14)
M3
G1 X207.175 Y44.6
M5
G0 X207.125 Y44.8
(158 Engrave: contour-3 contour-14)
M3
G1 X200.143 Y44.8
M5
G0 X199.971 Y45
(159 Engrave: contour-3 contour-14)
M3
G1 X207.075 Y45
M5
G0 X207.025 Y45.2
(160 Engrave: contour-3 contour-14)
M3
G1 X199.8 Y45.2
M5
G0 X199.629 Y45.4
(161 Engrave: contour-3 contour-14)
M3
G1 X206.975 Y45.4
M5
G0 X206.925 Y45.6
(162 Engrave: contour-3 contour-14)
M3
G1 X199.457 Y45.6
M5
G0 X199.286 Y45.8
(163 Engrave: contour-3 contour-14)
M3
G1 X206.875 Y45.8
M5
G0 X206.825 Y46
(164 Engrave: contour-3 contour-14)
M3
G1 X199.114 Y46
M5
G0 X198.943 Y46.2
(165 Engrave: contour-3 contour-14)
M3
G1 X206.775 Y46.2
M5
G0 X206.725 Y46.4
(166 Engrave: contour-3 contour-14)
M3
G1 X198.771 Y46.4
M5
G0 X198.6 Y46.6
(167 Engrave: contour-3 contour-14)
M3
G1 X206.675 Y46.6
M5
G0 X206.625 Y46.8
(168 Engrave: contour-3 contour-14)
M3
G1 X198.429 Y46.8
M5
G0 X198.257 Y47
(169 Engrave: contour-3 contour-14)
M3
G1 X206.575 Y47
M5
G0 X206.525 Y47.2
(170 Engrave: contour-3 contour-14)
M3
G1 X198.086 Y47.2
M5
G0 X198.117 Y47.4
(171 Engrave: contour-3 contour-14)
M3
G1 X206.475 Y47.4
M5
G0 X206.425 Y47.6
(172 Engrave: contour-3 contour-14)
M3
G1 X198.35 Y47.6
M5
G0 X198.583 Y47.8
(173 Engrave: contour-3 contour-14)
M3
G1 X206.375 Y47.8
M5
G0 X206.325 Y48
(174 Engrave: contour-3 contour-14)
M3
G1 X198.817 Y48
M5
G0 X199.05 Y48.2
(175 Engrave: contour-3 contour-14)
M3
G1 X206.275 Y48.2
M5
G0 X206.225 Y48.4
(176 Engrave: contour-3 contour-14)
M3
G1 X199.283 Y48.4
M5
G0 X199.517 Y48.6
(177 Engrave: contour-3 contour-14)
M3
G1 X206.175 Y48.6
M5
G0 X206.125 Y48.8
(178 Engrave: contour-3 contour-14)
M3
G1 X199.75 Y48.8
M5
G0 X199.983 Y49
(179 Engrave: contour-3 contour-14)
M3
G1 X206.075 Y49
M5
G0 X206.025 Y49.2
(180 Engrave: contour-3 contour-14)
M3
G1 X200.217 Y49.2
M5
G0 X200.45 Y49.4
(181 Engrave: contour-3 contour-14)
M3
G1 X205.975 Y49.4
M5
G0 X205.925 Y49.6
(182 Engrave: contour-3 contour-14)
M3
G1 X200.683 Y49.6
M5
G0 X200.917 Y49.8
(183 Engrave: contour-3 contour-14)
M3
G1 X205.875 Y49.8
M5
G0 X205.825 Y50
(184 Engrave: contour-3 contour-14)
M3
G1 X201.15 Y50
M5
G0 X201.383 Y50.2
(185 Engrave: contour-3 contour-14)
M3
G1 X205.775 Y50.2
M5
G0 X205.725 Y50.4
(186 Engrave: contour-3 contour-14)
M3
G1 X201.617 Y50.4
M5
G0 X201.85 Y50.6
(187 Engrave: contour-3 contour-14)
M3
G1 X205.675 Y50.6
M5
G0 X205.625 Y50.8
(188 Engrave: contour-3 contour-14)
M3
G1 X202.083 Y50.8
M5
G0 X202.317 Y51
(189 Engrave: contour-3 contour-14)
M3
G1 X205.575 Y51
M5
G0 X205.525 Y51.2
(190 Engrave: contour-3 contour-14)
M3
G1 X202.55 Y51.2
M5
G0 X202.783 Y51.4
(191 Engrave: contour-3 contour-14)
M3
G1 X205.475 Y51.4
M5
G0 X205.425 Y51.6
(192 Engrave: contour-3 contour-14)
M3
G1 X203.017 Y51.6
M5
G0 X203.25 Y51.8
(193 Engrave: contour-3 contour-14)
M3
G1 X205.375 Y51.8
M5
G0 X205.325 Y52
(194 Engrave: contour-3 contour-14)
M3
G1 X203.483 Y52
M5
G0 X203.717 Y52.2
(195 Engrave: contour-3 contour-14)
M3
G1 X205.275 Y52.2
M5
G0 X205.225 Y52.4
(196 Engrave: contour-3 contour-14)
M3
G1 X203.95 Y52.4
M5
G0 X204.183 Y52.6
(197 Engrave: contour-3 contour-14)
M3
G1 X205.175 Y52.6
M5
G0 X205.125 Y52.8
(198 Engrave: contour-3 contour-14)
M3
G1 X204.417 Y52.8
M5
G0 X204.65 Y53
(199 Engrave: contour-3 contour-14)
M3
G1 X205.075 Y53
M5
G0 X205.025 Y53.2
(200 Engrave: contour-3 contour-14)
M3
G1 X204.883 Y53.2
M5
G0 X95 Y46.8
(201 Cut through: contour-7)
M3
G4 P0.6
G3 X88.2 Y40 I0 J-6.8 F2400
G3 X101.8 Y40 I6.8 J0
G3 X95 Y46.8 I-6.8 J0
M5
G0 X41.8 Y40
(202 Cut through: contour-2)
M3
G4 P0.6
G3 X28.2 Y40 I-6.8 J0
G3 X41.8 Y40 I6.8 J0
M5
G0 X87.662 Y19.5
(203 Cut through: contour-6)
M3
G4 P0.6
G1 X84 Y19.5
G2 X79.5 Y24 I0 J4.5
G1 X79.5 Y56
G2 X84 Y60.5 I4.5 J0
G1 X118.338 Y60.5
M5
G0 X122.338 Y60.5
(204 Cut through: contour-6)
M3
G4 P0.6
G1 X126 Y60.5
G2 X130.5 Y56 I0 J-4.5
G1 X130.5 Y24
G2 X126 Y19.5 I-4.5 J0
G1 X91.662 Y19.5
M5
G0 X27.662 Y19.5
(205 Cut through: contour-1)
M3
G4 P0.6
G1 X24 Y19.5
G2 X19.5 Y24 I0 J4.5
G1 X19.5 Y56
G2 X24 Y60.5 I4.5 J0
G1 X58.338 Y60.5
M5
G0 X62.338 Y60.5
(206 Cut through: contour-1)
M3
G4 P0.6
G1 X66 Y60.5
G2 X70.5 Y56 I0 J-4.5
G1 X70.5 Y24
G2 X66 Y19.5 I-4.5 J0
G1 X31.662 Y19.5
M5
G0 X158.75 Y28.316
(207 Cut through: contour-9)
M3
G4 P0.6
G2 X160 Y41.8 I1.25 J6.684
G2 X161.25 Y28.316 I0 J-6.8
M5
G0 X180.5 Y27.662
(208 Cut through: contour-8)
M3
G4 P0.6
G1 X180.5 Y24
G2 X176 Y19.5 I-4.5 J0
G1 X144 Y19.5
G2 X139.5 Y24 I0 J4.5
G1 X139.5 Y35.657
M5
G0 X139.5 Y39.657
(209 Cut through: contour-8)
M3
G4 P0.6
G1 X139.5 Y58.338
M5
G0 X139.5 Y62.338
(210 Cut through: contour-8)
M3
G4 P0.6
G1 X139.5 Y66
G2 X144 Y70.5 I4.5 J0
G1 X176 Y70.5
G2 X180.5 Y66 I0 J-4.5
G1 X180.5 Y31.662
M5
G0 X223.766 Y102.811
(211 Engrave: contour-11)
M3
G1 X226.234 Y102.811 F6000
M5
G0 X227.085 Y103.013
(212 Engrave: contour-11)
M3
G1 X222.915 Y103.013
M5
G0 X222.322 Y103.216
(213 Engrave: contour-11)
M3
G1 X227.678 Y103.216
M5
G0 X228.15 Y103.418
(214 Engrave: contour-11)
M3
G1 X221.85 Y103.418
M5
G0 X221.47 Y103.621
(215 Engrave: contour-11)
M3
G1 X228.53 Y103.621
M5
G0 X228.888 Y103.823
(216 Engrave: contour-11)
M3
G1 X221.112 Y103.823
M5
G0 X220.821 Y104.026
(217 Engrave: contour-11)
M3
G1 X229.179 Y104.026
M5
G0 X229.469 Y104.228
(218 Engrave: contour-11)
M3
G1 X220.531 Y104.228
M5
G0 X220.295 Y104.431
(219 Engrave: contour-11)
M3
G1 X229.705 Y104.431
M5
G0 X229.941 Y104.633
(220 Engrave: contour-11)
M3
G1 X220.059 Y104.633
M5
G0 X219.85 Y104.836
(221 Engrave: contour-11)
M3
G1 X230.15 Y104.836
M5
G0 X230.342 Y105.038
(222 Engrave: contour-11)
M3
G1 X219.658 Y105.038
M5
G0 X219.465 Y105.241
(223 Engrave: contour-11)
M3
G1 X230.535 Y105.241
M5
G0 X230.692 Y105.443
(224 Engrave: contour-11)
M3
G1 X219.308 Y105.443
M5
G0 X219.151 Y105.646
(225 Engrave: contour-11)
M3
G1 X230.849 Y105.646
M5
G0 X231.003 Y105.848
(226 Engrave: contour-11)
M3
G1 X218.997 Y105.848
M5
G0 X218.871 Y106.051
(227 Engrave: contour-11)
M3
G1 X231.129 Y106.051
M5
G0 X231.256 Y106.253
(228 Engrave: contour-11)
M3
G1 X218.744 Y106.253
M5
G0 X218.618 Y106.456
(229 Engrave: contour-11)
M3
G1 X231.382 Y106.456
M5
G0 X231.481 Y106.658
(230 Engrave: contour-11)
M3
G1 X218.519 Y106.658
M5
G0 X218.419 Y106.861
(231 Engrave: contour-11)
M3
G1 X231.581 Y106.861
M5
G0 X231.68 Y107.063
(232 Engrave: contour-11)
M3
G1 X218.32 Y107.063
M5
G0 X218.238 Y107.266
(233 Engrave: contour-11)
M3
G1 X231.762 Y107.266
M5
G0 X231.837 Y107.469
(234 Engrave: contour-11)
M3
G1 X218.163 Y107.469
M5
G0 X218.088 Y107.671
(235 Engrave: contour-11)
M3
G1 X231.912 Y107.671
M5
G0 X231.98 Y107.874
(236 Engrave: contour-11)
M3
G1 X218.02 Y107.874
M5
G0 X217.967 Y108.076
(237 Engrave: contour-11)
M3
G1 X232.033 Y108.076
M5
G0 X232.085 Y108.279
(238 Engrave: contour-11)
M3
G1 X217.915 Y108.279
M5
G0 X217.862 Y108.481
(239 Engrave: contour-11)
M3
G1 X232.138 Y108.481
M5
G0 X232.174 Y108.684
(240 Engrave: contour-11)
M3
G1 X217.826 Y108.684
M5
G0 X217.795 Y108.886
(241 Engrave: contour-11)
M3
G1 X232.205 Y108.886
M5
G0 X232.236 Y109.089
(242 Engrave: contour-11)
M3
G1 X217.764 Y109.089
M5
G0 X217.736 Y109.291
(243 Engrave: contour-11)
M3
G1 X232.264 Y109.291
M5
G0 X232.274 Y109.494
(244 Engrave: contour-11)
M3
G1 X217.726 Y109.494
M5
G0 X217.715 Y109.696
(245 Engrave: contour-11)
M3
G1 X232.285 Y109.696
M5
G0 X232.295 Y109.899
(246 Engrave: contour-11)
M3
G1 X217.705 Y109.899
M5
G0 X217.705 Y110.101
(247 Engrave: contour-11)
M3
G1 X232.295 Y110.101
M5
G0 X232.285 Y110.304
(248 Engrave: contour-11)
M3
G1 X217.715 Y110.304
M5
G0 X217.726 Y110.506
(249 Engrave: contour-11)
M3
G1 X232.274 Y110.506
M5
G0 X232.264 Y110.709
(250 Engrave: contour-11)
M3
G1 X217.736 Y110.709
M5
G0 X217.764 Y110.911
(251 Engrave: contour-11)
M3
G1 X232.236 Y110.911
M5
G0 X232.205 Y111.114
(252 Engrave: contour-11)
M3
G1 X217.795 Y111.114
M5
G0 X217.826 Y111.316
(253 Engrave: contour-11)
M3
G1 X232.174 Y111.316
M5
G0 X232.138 Y111.519
(254 Engrave: contour-11)
M3
G1 X217.862 Y111.519
M5
G0 X217.915 Y111.721
(255 Engrave: contour-11)
M3
G1 X232.085 Y111.721
M5
G0 X232.033 Y111.924
(256 Engrave: contour-11)
M3
G1 X217.967 Y111.924
M5
G0 X218.02 Y112.126
(257 Engrave: contour-11)
M3
G1 X231.98 Y112.126
M5
G0 X231.912 Y112.329
(258 Engrave: contour-11)
M3
G1 X218.088 Y112.329
M5
G0 X218.163 Y112.531
(259 Engrave: contour-11)
M3
G1 X231.837 Y112.531
M5
G0 X231.762 Y112.734
(260 Engrave: contour-11)
M3
G1 X218.238 Y112.734
M5
G0 X218.32 Y112.937
(261 Engrave: contour-11)
M3
G1 X231.68 Y112.937
M5
G0 X231.581 Y113.139
(262 Engrave: contour-11)
M3
G1 X218.419 Y113.139
M5
G0 X218.519 Y113.342
(263 Engrave: contour-11)
M3
G1 X231.481 Y113.342
M5
G0 X231.382 Y113.544
(264 Engrave: contour-11)
M3
G1 X218.618 Y113.544
M5
G0 X218.744 Y113.747
(265 Engrave: contour-11)
M3
G1 X231.256 Y113.747
M5
G0 X231.129 Y113.949
(266 Engrave: contour-11)
M3
G1 X218.871 Y113.949
M5
G0 X218.997 Y114.152
(267 Engrave: contour-11)
M3
G1 X231.003 Y114.152
M5
G0 X230.849 Y114.354
(268 Engrave: contour-11)
M3
G1 X219.151 Y114.354
M5
G0 X219.308 Y114.557
(269 Engrave: contour-11)
M3
G1 X230.692 Y114.557
M5
G0 X230.535 Y114.759
(270 Engrave: contour-11)
M3
G1 X219.465 Y114.759
M5
G0 X219.658 Y114.962
(271 Engrave: contour-11)
M3
G1 X230.342 Y114.962
M5
G0 X230.15 Y115.164
(272 Engrave: contour-11)
M3
G1 X219.85 Y115.164
M5
G0 X220.059 Y115.367
(273 Engrave: contour-11)
M3
G1 X229.941 Y115.367
M5
G0 X229.705 Y115.569
(274 Engrave: contour-11)
M3
G1 X220.295 Y115.569
M5
G0 X220.531 Y115.772
(275 Engrave: contour-11)
M3
G1 X229.469 Y115.772
M5
G0 X229.179 Y115.974
(276 Engrave: contour-11)
M3
G1 X220.821 Y115.974
M5
G0 X221.112 Y116.177
(277 Engrave: contour-11)
M3
G1 X228.888 Y116.177
M5
G0 X228.53 Y116.379
(278 Engrave: contour-11)
M3
G1 X221.47 Y116.379
M5
G0 X221.85 Y116.582
(279 Engrave: contour-11)
M3
G1 X228.15 Y116.582
M5
G0 X227.678 Y116.784
(280 Engrave: contour-11)
M3
G1 X222.322 Y116.784
M5
G0 X222.915 Y116.987
(281 Engrave: contour-11)
M3
G1 X227.085 Y116.987
M5
G0 X226.234 Y117.189
(282 Engrave: contour-11)
M3
G1 X223.766 Y117.189
M5
G0 X240.5 Y101.631
(283 Cut through: contour-10)
M3
G4 P0.6
G1 X240.5 Y126 F2400
G3 X236 Y130.5 I-4.5 J0
G1 X194 Y130.5
G3 X189.5 Y126 I0 J-4.5
G1 X189.5 Y122.369
M5
G0 X189.5 Y118.369
(284 Cut through: contour-10)
M3
G4 P0.6
G1 X189.5 Y94
G3 X194 Y89.5 I4.5 J0
G1 X236 Y89.5
G3 X240.5 Y94 I0 J4.5
G1 X240.5 Y97.631
M5
G0 X0 Y0
M5
M30
