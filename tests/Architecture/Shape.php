<?php

namespace Tests\Architecture;

use PhpParser\Node;
use PhpParser\Node\Expr;
use PhpParser\Node\Stmt;
use PhpParser\NodeFinder;
use PhpParser\NodeTraverser;
use PhpParser\NodeVisitor\NameResolver;
use PhpParser\Parser;
use PhpParser\ParserFactory;

/** What can be counted about code without running it. Names in comments count for nothing. */
final class Shape
{
    private const BRANCHES = [
        Stmt\If_::class,
        Stmt\ElseIf_::class,
        Stmt\For_::class,
        Stmt\Foreach_::class,
        Stmt\While_::class,
        Stmt\Do_::class,
        Stmt\Case_::class,
        Stmt\Catch_::class,
        Node\MatchArm::class,
        Expr\Ternary::class,
        Expr\BinaryOp\BooleanAnd::class,
        Expr\BinaryOp\BooleanOr::class,
        Expr\BinaryOp\Coalesce::class,
    ];

    /** Functions that only look at what they are given. */
    private const PLAIN = [
        'count', 'array_keys', 'array_flip', 'array_column', 'array_combine', 'array_fill_keys', 'array_map', 'hash_init', 'str_repeat',
        'preg_split',
    ];

    /** @var array<string, array<Node>> */
    private static array $parsed = [];

    private readonly Parser $parser;

    public function __construct(private readonly string $root)
    {
        $this->parser = (new ParserFactory)->createForHostVersion();
    }

    /**
     * @param  list<string>  $folders  below the root
     * @return list<string> paths below the root, of files whose names end so
     */
    public function files(array $folders, string $ending = '.php'): array
    {
        $files = [];
        foreach ($folders as $folder) {
            $found = new \RecursiveIteratorIterator(
                new \RecursiveDirectoryIterator("$this->root/$folder", \FilesystemIterator::SKIP_DOTS),
            );
            foreach ($found as $file) {
                if (str_ends_with($file->getFilename(), $ending)) {
                    $files[] = substr($file->getPathname(), strlen($this->root) + 1);
                }
            }
        }
        sort($files);

        return $files;
    }

    public function text(string $file): string
    {
        return (string) file_get_contents("$this->root/$file");
    }

    /** @return array<Node> with names as full as they can be */
    public function parsed(string $file): array
    {
        return self::$parsed[$file] ??= $this->parse($file);
    }

    /** @return array<Node> */
    private function parse(string $file): array
    {
        $traverser = new NodeTraverser(new NameResolver);

        return $traverser->traverse($this->parser->parse($this->text($file)) ?? []);
    }

    /** @return list<int> numbers of lines longer than so many characters */
    public function longLines(string $file, int $most): array
    {
        $long = [];
        foreach (explode("\n", $this->text($file)) as $i => $line) {
            if (mb_strlen($line) > $most) {
                $long[] = $i + 1;
            }
        }

        return $long;
    }

    /** @return list<Stmt\ClassMethod> */
    public function methods(string $file): array
    {
        return array_values((new NodeFinder)->findInstanceOf($this->parsed($file), Stmt\ClassMethod::class));
    }

    /** Lines of a method, tables of data and texts of several lines counted as one each. */
    public static function length(Stmt\ClassMethod $method): int
    {
        $data = self::data($method->stmts ?? []);

        return $method->getEndLine() - $method->getStartLine() + 1
            - array_sum(array_map(fn (Node $n) => $n->getEndLine() - $n->getStartLine(), $data));
    }

    /**
     * @param  array<Node>  $nodes
     * @return list<Node> arrays and texts that only say something, the outermost
     */
    private static function data(array $nodes): array
    {
        $found = [];
        foreach ($nodes as $node) {
            if (self::isData($node)) {
                $found[] = $node;

                continue;
            }
            foreach ($node->getSubNodeNames() as $name) {
                $within = array_filter(is_array($node->$name) ? $node->$name : [$node->$name], fn ($n) => $n instanceof Node);
                array_push($found, ...self::data(array_values($within)));
            }
        }

        return $found;
    }

    private static function isData(Node $node): bool
    {
        if ($node instanceof Node\Scalar\InterpolatedString || $node instanceof Node\Scalar\String_) {
            return true;
        }
        $does = fn (Node $n) => ! ($n instanceof Expr\Array_ || $n instanceof Node\ArrayItem || $n instanceof Node\Scalar
            || $n instanceof Node\InterpolatedStringPart || $n instanceof Expr\BinaryOp\Concat || $n instanceof Expr\Variable
            || $n instanceof Expr\ConstFetch || $n instanceof Expr\ClassConstFetch || $n instanceof Expr\UnaryMinus
            || $n instanceof Expr\PropertyFetch || $n instanceof Expr\FuncCall || $n instanceof Expr\New_ || $n instanceof Node\Arg
            || $n instanceof Node\Name || $n instanceof Node\Identifier);

        return $node instanceof Expr\Array_ && (new NodeFinder)->findFirst([$node], $does) === null;
    }

    /** Ways through it: one, and one more at every place where it divides (McCabe, "A Complexity Measure", 1976). */
    public static function branches(Stmt\ClassMethod $method): int
    {
        return 1
            + count(
                (new NodeFinder)->find(
                    $method->stmts ?? [],
                    fn (Node $n) => in_array($n::class, self::BRANCHES, true),
                ),
            );
    }

    /** Statements that do more than put a value or a new, plain object into a property. */
    public static function steps(Stmt\ClassMethod $method): int
    {
        return count(array_filter($method->stmts ?? [], function (Node $statement) {
            $call = $statement instanceof Stmt\Expression ? $statement->expr : null;
            if ($call instanceof Expr\StaticCall && $call->class instanceof Node\Name && $call->class->toString() === 'parent') {
                return false;
            }
            if (self::refuses($statement)) {
                return false;
            }
            $assigns = $call instanceof Expr\Assign;
            $works = fn (Node $n) => $n instanceof Expr\MethodCall || $n instanceof Expr\StaticCall || $n instanceof Expr\Throw_
                || ($n instanceof Expr\FuncCall && ! ($n->name instanceof Node\Name && in_array($n->name->toString(), self::PLAIN, true)));

            return ! $assigns || (new NodeFinder)->findFirst([$statement], $works) !== null;
        }));
    }

    /** Whether a statement does nothing but refuse values that a value object may not have. */
    private static function refuses(Node $statement): bool
    {
        if ($statement instanceof Stmt\If_ || $statement instanceof Stmt\Foreach_) {
            $others = $statement instanceof Stmt\If_ && ($statement->else !== null || $statement->elseifs !== []);

            return ! $others && array_filter($statement->stmts, self::refuses(...)) === $statement->stmts;
        }
        $does = $statement instanceof Stmt\Expression ? $statement->expr : null;

        return $does instanceof Expr\Throw_
            || ($does instanceof Expr\StaticCall && $does->name instanceof Node\Identifier
                && str_starts_with($does->name->toString(), 'refuse'));
    }

    /** @return list<string> classes it names, in full */
    public function uses(string $file): array
    {
        $names = [];
        foreach ((new NodeFinder)->findInstanceOf($this->parsed($file), Node\Name\FullyQualified::class) as $name) {
            $names[$name->toString()] = true;
        }

        return array_keys($names);
    }

    /**
     * Which folder uses which.
     *
     * @param  array<string, string>  $roots  namespace → folder, such as App\ → app
     * @return array<string, array<string, int>> folder → folder it uses → in how many files
     */
    public function arrows(array $roots): array
    {
        $arrows = [];
        foreach ($roots as $folder) {
            foreach ($this->files([$folder]) as $file) {
                $from = self::room($file);
                $arrows[$from] ??= [];
                $to = [];
                foreach ($this->uses($file) as $class) {
                    foreach ($roots as $namespace => $of) {
                        if (str_starts_with($class, $namespace)) {
                            $to[
                                self::room(
                                    $of.'/'.str_replace('\\', '/', substr($class, strlen($namespace))).'.php',
                                )
                            ] = true;
                        }
                    }
                }
                foreach (array_keys(array_diff_key($to, [$from => 0])) as $room) {
                    $arrows[$from][$room] = ($arrows[$from][$room] ?? 0) + 1;
                }
            }
        }

        return $arrows;
    }

    /** Its top folder and the one below it. */
    public static function room(string $file): string
    {
        $parts = explode('/', $file);

        return count($parts) > 2 ? "$parts[0]/$parts[1]" : $parts[0];
    }

    /**
     * Folders that reach each other, by Tarjan's algorithm (Depth-first search and linear graph algorithms, 1972).
     *
     * @param  array<string, array<string, int>>  $arrows
     * @return list<list<string>> of more than one folder
     */
    public static function knots(array $arrows): array
    {
        $index = $low = $stack = $on = $knots = [];
        $visit = function (string $v) use (&$visit, &$index, &$low, &$stack, &$on, &$knots, $arrows): void {
            $index[$v] = $low[$v] = count($index);
            $stack[] = $v;
            $on[$v] = true;
            foreach (array_keys($arrows[$v] ?? []) as $w) {
                if (! isset($index[$w])) {
                    $visit($w);
                    $low[$v] = min($low[$v], $low[$w]);
                } elseif (isset($on[$w])) {
                    $low[$v] = min($low[$v], $index[$w]);
                }
            }
            if ($low[$v] === $index[$v]) {
                $knot = [];
                do {
                    $knot[] = $w = (string) array_pop($stack);
                    unset($on[$w]);
                } while ($w !== $v);
                if (count($knot) > 1) {
                    $knots[] = $knot;
                }
            }
        };
        foreach (array_keys($arrows) as $room) {
            isset($index[$room]) || $visit($room);
        }

        return $knots;
    }
}
