<?php

namespace Tests\Core;

use Composer\InstalledVersions;
use PHPUnit\Framework\TestCase;
use Symfony\Component\Process\InputStream;
use Symfony\Component\Process\Process;

/** What bin/ does before there is an application. */
final class ScriptsTest extends TestCase
{
    public function test_databases_begun_in_the_same_second_choose_ports_of_their_own(): void
    {
        $root = dirname(__DIR__, 2);
        $begun = array_map(function () use ($root) {
            // Whoever has its port waits until all have one, as a server would that has not bound it yet.
            $input = new InputStream;
            $script = '. bin/lib.sh; take_port 47311; echo $DB_PORT; read -r _';
            $process = new Process(['bash', '-c', $script], $root, timeout: 20);
            $process->setInput($input);
            $process->start();

            return [$process, $input];
        }, range(1, 6));
        $ports = [];
        foreach ($begun as [$process]) {
            $process->waitUntil(fn (string $type, string $out) => $type === Process::OUT && str_contains($out, "\n"));
            $ports[] = (int) $process->getOutput();
        }
        foreach ($begun as [$process, $input]) {
            $input->close();
            $process->wait();
        }
        self::assertCount(6, array_unique($ports), implode(' ', $ports));
        self::assertSame(47311, min($ports));
    }

    public function test_what_is_installed_is_what_was_tried(): void
    {
        $root = dirname(__DIR__, 2);
        $tried = [];
        foreach (file("$root/composer.versions", FILE_IGNORE_NEW_LINES | FILE_SKIP_EMPTY_LINES) ?: [] as $line) {
            [$name, $version] = explode(' ', $line, 2);
            $tried[$name] = $version;
        }
        $installed = [];
        foreach (InstalledVersions::getInstalledPackages() as $name) {
            $version = InstalledVersions::getPrettyVersion($name);
            if ($version !== null && $name !== InstalledVersions::getRootPackage()['name']) {
                $installed[$name] = $version;
            }
        }
        ksort($tried);
        ksort($installed);
        self::assertSame($tried, $installed);
    }
}
