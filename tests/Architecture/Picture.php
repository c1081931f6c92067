<?php

namespace Tests\Architecture;

/** The folders of core and app in the order they may use each other, drawn from the code's own names. */
final class Picture
{
    private const STEP = 34;

    private const TOP = 64;

    private const CORE = 110;

    private const APP = 470;

    private const WIDTH = 130;

    /** @param  array<string, array<string, int>>  $arrows  as Shape::arrows() gives them */
    public static function svg(array $arrows): string
    {
        $places = [];
        foreach (['core' => [Layers::CORE, self::CORE], 'app' => [Layers::APP, self::APP]] as $root => [$folders, $x]) {
            foreach ($folders as $i => $folder) {
                $places["$root/$folder"] = [$x, self::TOP + $i * self::STEP];
            }
        }
        $height = self::TOP + count(Layers::APP) * self::STEP + 16;
        $lines = $plates = '';
        foreach ($places as $room => [$x, $y]) {
            $name = explode('/', $room)[1];
            $plates .= "<rect x=\"$x\" y=\"$y\" width=\"".self::WIDTH.'" height="24" rx="2"/>'
                .'<text x="'.($x + 10).'" y="'.($y + 16)."\">$name</text>\n";
            $to = array_keys($arrows[$room] ?? []);
            sort($to);
            foreach ($to as $other) {
                $lines .= isset($places[$other]) ? self::line($room, $places[$room], $other, $places[$other]) : '';
            }
        }

        return <<<SVG
            <svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 760 $height" width="760" height="$height" role="img"
              aria-label="Folders of core and app; each uses only folders above it, and app uses core">
            <style>
            rect { fill: #fff; stroke: #51626f } text { font: 13px sans-serif; fill: #14212b }
            path { fill: none; stroke: #0072b2; stroke-opacity: .45 } .over { stroke: #51626f; stroke-opacity: .16 }
            .head { font-weight: bold }
            </style>
            <rect x="0" y="0" width="760" height="$height" style="fill:#eef1f2;stroke:none"/>
            <text class="head" x="110" y="30">core: the rules of the job</text>
            <text class="head" x="470" y="30">app: Laravel around them</text>
            <text x="110" y="50">each folder uses only those above it</text>
            <text x="470" y="50">the same, and core (grey)</text>
            $lines$plates</svg>

            SVG;
    }

    /**
     * @param  array{int, int}  $from
     * @param  array{int, int}  $to
     */
    private static function line(string $room, array $from, string $other, array $to): string
    {
        [$y1, $y2] = [$from[1] + 12, $to[1] + 12];
        if (explode('/', $room)[0] !== explode('/', $other)[0]) {
            $x2 = $to[0] + self::WIDTH;

            return "<path class=\"over\" d=\"M$from[0] $y1 L$x2 $y2\"/>\n";
        }
        // Longer ways bend further out: to the left in core, to the right in app.
        $isCore = str_starts_with($room, 'core/');
        $x = $isCore ? $from[0] : $from[0] + self::WIDTH;
        $out = $x + ($isCore ? -1 : 1) * (14 + intdiv(abs($y1 - $y2), 4));

        return "<path d=\"M$x $y1 C$out $y1 $out $y2 $x $y2\"/>\n";
    }
}
