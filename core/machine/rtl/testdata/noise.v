// full
// Chance of two kinds: 32 bits of feedback, and a product that goes on with a guard, sampled at a tick of a counter
// while a key is held.
module top(input clk, input key, input again, output reg [3:0] a, output reg [3:0] b);
  reg [31:0] r = 32'h1;
  reg [15:0] m = 16'd7;
  reg [23:0] n = 0;
  initial {a, b} = 0;
  wire tick = n == 24'd9_999_999;
  always @(posedge clk) begin
    n <= tick ? 24'd0 : n + 1'b1;
    if (again) r <= 32'hdead_beef;
    else r <= {r[30:0], ~(r[31] ^ r[21] ^ r[1] ^ r[0])};
    m <= m == 16'd0 ? 16'd1 : m * 16'd75 + 16'd74;
    if (tick && key) begin
      a <= r[3:0];
      b <= m[15:12];
    end
  end
endmodule
