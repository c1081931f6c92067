<?php

namespace Tests\Feature;

use App\Models\AuditEntry;
use App\Models\CodeCrosswalk;
use App\Models\Extract;
use App\Models\Finding;
use App\Models\Load;
use App\Models\Migration;
use App\Models\Role;
use App\Models\User;
use Illuminate\Support\Facades\DB;
use PHPUnit\Framework\Attributes\DataProvider;
use Symfony\Component\Process\Process;
use Tests\TestCase;

/** What holds for every screen: nothing inline, labels, one main heading, forms only for those who may send them. */
final class PagesTest extends TestCase
{
    private Migration $migration;

    protected function setUp(): void
    {
        parent::setUp();
        [$this->migration] = $this->loadedDemo(self::smallDemo());
    }

    /** @return list<string> */
    private function screens(): array
    {
        $m = "/m/{$this->migration->id}";
        $load = Load::query()->where('name', 'Vessels')->firstOrFail();
        $extract = $load->extract_id;
        $finding = Finding::query()
            ->where('extract_id', $extract)
            ->where('take_id', $load->extract->take_id)
            ->value('id');
        $screens = [
            '/',
            "$m/sources",
            "$m/sources/references",
            "$m/sources/extracts/$extract",
            "$m/sources/extracts/$extract?show=findings",
            "$m/sources/extracts/$extract?show=keys",
            "$m/sources/extracts/$extract?show=rows",
            "$m/sources/extracts/$extract?show=takes",
            "$m/sources/extracts/$extract/columns/4",
            "$m/sources/extracts/$extract/findings/$finding",
            "$m/target/tables",
            "$m/connections",
            "$m/mapping/document",
            "$m/mapping/document?load=$load->id",
            "$m/mapping/loads/$load->id/history",
            "$m/mapping/loads/$load->id/text",
            "$m/mapping/loads/$load->id/record/1",
            "$m/rows/vessel?outcome=rejected",
            "$m/rows/$load->id/5",
            "$m/trace?q=no-such-key",
        ];
        foreach (
            ['sources', 'target', 'mapping', 'crosswalks', 'order', 'runs', 'rejects', 'reconciliation'] as $stop
        ) {
            $screens[] = "$m/$stop";
            $screens[] = "$m/$stop/vessel";
        }

        return $screens;
    }

    /** @return iterable<array{Role}> */
    public static function roles(): iterable
    {
        // Those who may do most and least; what lies between has its own tests.
        foreach ([Role::Lead, Role::Auditor] as $role) {
            yield $role->value => [$role];
        }
    }

    #[DataProvider('roles')]
    public function test_every_screen_for_those_who_may_do_most_and_least(Role $role): void
    {
        $this->actingAs($this->user($role));
        foreach ($this->screens() as $screen) {
            $this->aScreen($role, $screen);
        }
    }

    private function aScreen(Role $role, string $screen): void
    {
        $response = $this->get($screen);
        $response->assertOk();
        $html = (string) $response->getContent();
        // The policy of the page forbids inline script and style; nothing may need them.
        self::assertStringContainsString(
            "script-src 'self'",
            (string) $response->headers->get('Content-Security-Policy'),
        );
        self::assertStringNotContainsString('unsafe', (string) $response->headers->get('Content-Security-Policy'));
        self::assertSame(
            0,
            preg_match('/<script(?![^>]*\bsrc=)[^>]*>|<style\b|\sstyle="|\son[a-z]+="|javascript:/i', $html),
            "$screen has something inline",
        );
        self::assertSame(
            0,
            preg_match('~(?:src|href|action)="(?:https?:)?//(?!localhost|127\.0\.0\.1)~', $html),
            "$screen reaches outside",
        );
        $document = new \DOMDocument;
        @$document->loadHTML($html);
        $path = new \DOMXPath($document);
        self::assertSame(1, $path->query('//main')->length, "$screen has one main part");
        self::assertNotSame('', trim((string) $path->evaluate('string(//title)')), $screen);
        $ids = array_map(fn ($node) => $node->nodeValue, iterator_to_array($path->query('//@id')));
        self::assertSame(
            [],
            array_keys(array_filter(array_count_values($ids), fn ($n) => $n > 1)),
            "$screen: an id stands twice",
        );
        $this->fieldsAndForms($role, $screen, $path);
    }

    private function fieldsAndForms(Role $role, string $screen, \DOMXPath $path): void
    {
        // Every field that can be filled has a name for those who cannot see it.
        foreach (
            $path->query(
                '//input[not(@type="hidden") and not(@type="checkbox") and not(@type="radio")] | //select | //textarea',
            ) as $field
        ) {
            $id = $field->getAttribute('id');
            $named = $field->getAttribute('aria-label') !== ''
                || ($id !== '' && $path->query("//label[@for='$id']")->length > 0)
                || $path->query('ancestor::label', $field)->length > 0;
            self::assertTrue($named, "$screen: a field \"{$field->getAttribute('name')}\" without a label");
        }
        foreach ($path->query('//form[translate(@method, "POST", "post")="post"]') as $form) {
            self::assertSame(
                1,
                $path->query('.//input[@name="_token"]', $form)->length,
                "$screen: a form without its token",
            );
        }
        if ($role === Role::Auditor) {
            // Logging out, looking at another round, counting and fetching rows are all an auditor sends.
            $actions = array_map(
                fn ($form) => $form->getAttribute('action'),
                iterator_to_array($path->query('//main//form[translate(@method, "POST", "post")="post"]')),
            );
            self::assertSame(
                [],
                array_values(
                    array_filter(
                        $actions,
                        fn ($a) => preg_match('{/columns$|/fields/|/(?:reconciliation|target)/count$|/rows/}', $a) !== 1,
                    ),
                ),
                "$screen offers an auditor what is refused then",
            );
        }
    }

    public function test_what_is_done_leaves_a_trace_with_its_author(): void
    {
        $this->actingAs($user = $this->user(Role::Consultant));
        $m = "/m/{$this->migration->id}";
        $load = Load::query()->where('name', 'Vessels')->firstOrFail();
        $extract = Extract::query()->findOrFail($load->extract_id);
        $crosswalk = CodeCrosswalk::query()->where('name', 'vessel types')->firstOrFail();
        $finding = Finding::query()
            ->where('extract_id', $extract->id)
            ->where('take_id', $extract->take_id)
            ->firstOrFail();
        $done = [
            'changed the rule of Vessels, name' => fn () => $this->put("$m/mapping/loads/$load->id/fields/name", [
                'expression' => 'upper(craft_name)',
                'version' => 1,
            ]),
            'left the column OLD_NO of craft behind' => fn () => $this->post(
                "$m/mapping/extracts/$extract->id/columns",
                ['header' => 'OLD_NO', 'reason' => 'x'],
            ),
            'took the column OLD_NO of craft up again' => fn () => $this->post(
                "$m/mapping/extracts/$extract->id/columns",
                ['header' => 'OLD_NO', 'undo' => 1],
            ),
            'mapped a code of vessel types' => fn () => $this->post("$m/crosswalks/codes/$crosswalk->id", [
                'old' => 'ZZ',
                'new' => 'tug',
            ]),
            'stated what vessel types does with other values' => fn () => $this->post(
                "$m/crosswalks/codes/$crosswalk->id/otherwise",
                ['otherwise' => 'empty'],
            ),
            'added code crosswalk piers' => fn () => $this->post("$m/crosswalks/codes", ['name' => 'piers']),
            'stated the parameter day' => fn () => $this->post("$m/mapping/parameters", [
                'name' => 'day',
                'prompt' => 'Which day?',
            ]),
            "finding $finding->code of BB/craft: accepted as it is" => fn () => $this->post(
                "$m/sources/extracts/$extract->id/findings",
                ['decisions' => [$finding->id => ['decision' => 'accepted', 'note' => 'known']]],
            ),
            'added source ZZ' => fn () => $this->post("$m/sources", ['code' => 'ZZ', 'name' => 'Another']),
            'left the extract craft behind' => fn () => $this->post("$m/mapping/extracts/$extract->id/not-loaded", [
                'reason' => 'x',
            ]),
            'corrected a cell of craft' => fn () => $this->repaired("$m/rejects/loads/$load->id", 'correct', [
                'row' => 1,
                'header' => 'CRAFT_NAME',
                'new' => 'X',
                'reason' => 'y',
            ]),
        ];
        $this->eachLeavesATrace($user, $m, $load, $done);
    }

    private function eachLeavesATrace(User $user, string $m, Load $load, array $done): void
    {
        foreach ($done as $what => $do) {
            $before = (int) AuditEntry::query()->max('id');
            $do();
            $entry = AuditEntry::query()->where('id', '>', $before)->orderBy('id')->first();
            self::assertNotNull($entry, $what);
            self::assertSame(
                [$what, $user->id, $this->migration->id],
                [$entry->what, $entry->user_id, $entry->migration_id],
            );
        }
        // A refusal is no deed: it is written down as what it is.
        $before = (int) AuditEntry::query()->max('id');
        $this->put("$m/mapping/loads/$load->id/fields/name", ['expression' => 'upper(', 'version' => 2]);
        $this->actingAs($this->user(Role::Auditor))->post("$m/sources", ['code' => 'YY', 'name' => 'No']);
        self::assertSame(['was refused'], AuditEntry::query()->where('id', '>', $before)->pluck('what')->all());
    }

    /** Eight processes at one rule: one of each pair that saw the same version wins, the others are told, and no version is lost. */
    public function test_people_at_one_rule_at_the_same_moment(): void
    {
        $load = Load::query()->where('name', 'Vessels')->firstOrFail();
        $user = $this->user(Role::Consultant);
        $code = "\$load = App\\Models\\Load::findOrFail($load->id); \$user = "
            ."App\\Models\\User::findOrFail($user->id); try { app(App\\Mapping\\RuleBook::class)->write(\$load, "
            ."'name', 1, \"upper(craft_name) ~ '\".getmypid().\"'\", null, null, \$user); echo 'kept'; "
            ."} catch (App\\Mapping\\RuleConflict \$e) { echo 'told'; }";
        $people = array_map(
            fn () => new Process([PHP_BINARY, 'artisan', 'tinker', '--execute', $code], base_path(), [
                'APP_ENV' => 'testing',
            ]),
            range(1, 8),
        );
        array_map(fn (Process $p) => $p->start(), $people);
        array_map(fn (Process $p) => $p->wait(), $people);
        $said = array_count_values(array_map(fn (Process $p) => trim($p->getOutput()), $people));
        self::assertSame(
            ['kept' => 1, 'told' => 7],
            ['kept' => $said['kept'] ?? 0, 'told' => $said['told'] ?? 0],
            implode("\n", array_map(fn (Process $p) => $p->getOutput().$p->getErrorOutput(), $people)),
        );
        self::assertSame(
            2,
            (int) DB::table('rules')->where('load_id', $load->id)->where('field', 'name')->value('version'),
        );
        self::assertSame(2, DB::table('rule_versions')->where('load_id', $load->id)->where('field', 'name')->count());
    }
}
